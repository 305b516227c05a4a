"""The compiled core of Mooring: a submodule for each room that has compiled code."""

from mooring._native import cad as cad
from mooring._native import drawing as drawing
from mooring._native import dynamics as dynamics
from mooring._native import kinematics as kinematics
from mooring._native import simulation as simulation
from mooring._native import tree as tree
