"""What any number of windows look at: a model, its posture, its simulation; no server in here."""

from mooring.page.desk.desk import Desk

__all__ = ["Desk"]
