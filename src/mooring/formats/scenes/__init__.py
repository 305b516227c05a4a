"""Robots as geometry in a posture: glTF, STL, OBJ, PLY."""
