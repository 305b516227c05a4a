"""Which parts touch each other."""

from mooring.cad.touching.contacts import Contact, contacts_of, groups_of

__all__ = ["Contact", "contacts_of", "groups_of"]
