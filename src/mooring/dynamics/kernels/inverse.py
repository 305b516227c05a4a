"""Inverse dynamics: the efforts that a motion needs.

Recursive Newton-Euler in body frames (Luh, Walker and Paul 1980; Featherstone, Rigid Body Dynamics
Algorithms, 2008, section 5.3).
"""

from __future__ import annotations

from mooring.compiling import entry, inlined, kernel
from mooring.dynamics.kernels.work import force_to_parent, new_work
from mooring.tree.arrays import FLOATING, PRISMATIC, REVOLUTE
from mooring.tree.kernels.joints import joint_frames
from mooring.tree.kernels.vectors import backward, cross, forward


@kernel
def inverse_dynamics(tree, q, v, a, gravity, work, tau):
    """Efforts (m,) for coordinates (n,), velocities and accelerations (m,); gravity (3,) [m/s^2].

    Accelerations of points are those that an observer measures, not the spatial ones.
    """
    n = tree.parent.shape[0]
    joint_frames(tree, q, work.rotation, work.translation)
    for i in range(n):
        _motion(tree, i, v, a, gravity, work)
        _force_of_body(tree, i, work)
    for i in range(n - 1, -1, -1):
        c = tree.freedom[i]
        if tree.kind[i] == FLOATING:
            tau[c : c + 3] = work.moment[i]
            tau[c + 3 : c + 6] = work.force[i]
        elif tree.kind[i] == REVOLUTE:
            load = work.moment[i]
            tau[c] = tree.rotor[c] * a[c] + (
                load[0] * tree.axis[i, 0] + load[1] * tree.axis[i, 1] + load[2] * tree.axis[i, 2]
            )
        elif tree.kind[i] == PRISMATIC:
            load = work.force[i]
            tau[c] = tree.rotor[c] * a[c] + (
                load[0] * tree.axis[i, 0] + load[1] * tree.axis[i, 1] + load[2] * tree.axis[i, 2]
            )
        if i > 0:
            force_to_parent(tree, i, work)


@inlined
def _motion(tree, i, v, a, gravity, work):
    p = tree.parent[i]
    r, t = work.rotation[i], work.translation[i]
    if p < 0:
        # The world accelerating upwards is the same as gravity pulling down.
        wx, wy, wz, ex, ey, ez = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
        px, py, pz = -gravity[0], -gravity[1], -gravity[2]
    else:
        wx, wy, wz = work.omega[p, 0], work.omega[p, 1], work.omega[p, 2]
        ex, ey, ez = work.omega_rate[p, 0], work.omega_rate[p, 1], work.omega_rate[p, 2]
        px, py, pz = work.acceleration[p, 0], work.acceleration[p, 1], work.acceleration[p, 2]
    # Acceleration of this origin as a point of the parent.
    ux, uy, uz = cross(wx, wy, wz, t[0], t[1], t[2])
    cx, cy, cz = cross(wx, wy, wz, ux, uy, uz)
    dx, dy, dz = cross(ex, ey, ez, t[0], t[1], t[2])
    px, py, pz = px + cx + dx, py + cy + dy, pz + cz + dz
    wx, wy, wz = backward(r, wx, wy, wz)
    ex, ey, ez = backward(r, ex, ey, ez)
    px, py, pz = backward(r, px, py, pz)
    c = tree.freedom[i]
    if tree.kind[i] == FLOATING:
        ux, uy, uz = v[c], v[c + 1], v[c + 2]
        lx, ly, lz = v[c + 3], v[c + 4], v[c + 5]
        gx, gy, gz = cross(wx, wy, wz, ux, uy, uz)
        # Coriolis acceleration, and that of an origin whose velocity turns with its body.
        cx, cy, cz = cross(2.0 * wx + ux, 2.0 * wy + uy, 2.0 * wz + uz, lx, ly, lz)
        wx, wy, wz = wx + ux, wy + uy, wz + uz
        ex, ey, ez = ex + a[c] + gx, ey + a[c + 1] + gy, ez + a[c + 2] + gz
        px, py, pz = px + a[c + 3] + cx, py + a[c + 4] + cy, pz + a[c + 5] + cz
    elif c >= 0:
        sx, sy, sz = tree.axis[i, 0], tree.axis[i, 1], tree.axis[i, 2]
        gx, gy, gz = cross(wx, wy, wz, sx * v[c], sy * v[c], sz * v[c])
        if tree.kind[i] == REVOLUTE:
            wx, wy, wz = wx + sx * v[c], wy + sy * v[c], wz + sz * v[c]
            ex, ey, ez = ex + sx * a[c] + gx, ey + sy * a[c] + gy, ez + sz * a[c] + gz
        else:
            # Coriolis acceleration of a point sliding on a turning body.
            px = px + sx * a[c] + 2.0 * gx
            py = py + sy * a[c] + 2.0 * gy
            pz = pz + sz * a[c] + 2.0 * gz
    work.omega[i, 0], work.omega[i, 1], work.omega[i, 2] = wx, wy, wz
    work.omega_rate[i, 0], work.omega_rate[i, 1], work.omega_rate[i, 2] = ex, ey, ez
    work.acceleration[i, 0], work.acceleration[i, 1], work.acceleration[i, 2] = px, py, pz


@inlined
def _force_of_body(tree, i, work):
    """Newton and Euler for one body: force, and moment about its frame's origin."""
    m, com, tensor = tree.mass[i], tree.centre[i], tree.tensor[i]
    wx, wy, wz = work.omega[i, 0], work.omega[i, 1], work.omega[i, 2]
    ex, ey, ez = work.omega_rate[i, 0], work.omega_rate[i, 1], work.omega_rate[i, 2]
    ux, uy, uz = cross(wx, wy, wz, com[0], com[1], com[2])
    cx, cy, cz = cross(wx, wy, wz, ux, uy, uz)
    dx, dy, dz = cross(ex, ey, ez, com[0], com[1], com[2])
    fx = m * (work.acceleration[i, 0] + cx + dx)
    fy = m * (work.acceleration[i, 1] + cy + dy)
    fz = m * (work.acceleration[i, 2] + cz + dz)
    hx, hy, hz = forward(tensor, wx, wy, wz)
    gx, gy, gz = cross(wx, wy, wz, hx, hy, hz)
    nx, ny, nz = forward(tensor, ex, ey, ez)
    lx, ly, lz = cross(com[0], com[1], com[2], fx, fy, fz)
    work.force[i, 0], work.force[i, 1], work.force[i, 2] = fx, fy, fz
    work.moment[i, 0] = nx + gx + lx
    work.moment[i, 1] = ny + gy + ly
    work.moment[i, 2] = nz + gz + lz


@entry
def batch_inverse_dynamics(tree, q, v, a, gravity, tau):
    """Efforts (b, m) for positions (b, n), velocities and accelerations (b, m)."""
    work = new_work(tree.parent.shape[0])
    for b in range(q.shape[0]):
        inverse_dynamics(tree, q[b], v[b], a[b], gravity, work, tau[b])
