"""Proposing links and joints from the geometry."""

from mooring.cad.proposing.proposal import Proposal, ProposedJoint, ProposedLink
from mooring.cad.proposing.propose import propose

__all__ = ["Proposal", "ProposedJoint", "ProposedLink", "propose"]
