"""Forward dynamics: the accelerations that efforts cause, in time linear in the joints.

Articulated bodies (Featherstone 1983; Featherstone 2008, section 7.3). An articulated inertia is
kept as its three blocks: moment by angular acceleration (`inertia`), moment by linear acceleration
(`coupling`), force by linear acceleration (`heft`).
"""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, kernel
from mooring.dynamics.kernels.mass_matrix import body_inertia, rotate_tensor
from mooring.dynamics.kernels.work import force_to_parent, new_work
from mooring.tree.arrays import FLOATING, REVOLUTE
from mooring.tree.kernels.dense import factorise, solve_factorised
from mooring.tree.kernels.joints import joint_frames
from mooring.tree.kernels.vectors import backward, cross, forward


@kernel
def forward_dynamics(tree, q, v, tau, gravity, work, scratch, a):
    """Accelerations (m,) for coordinates (n,), velocities and efforts (m,).

    `scratch` is (bodies, 8): for each body the six columns of U, then D and u, in Featherstone's
    terms; for one that floats the six components of its acceleration.
    """
    n = tree.parent.shape[0]
    joint_frames(tree, q, work.rotation, work.translation)
    for i in range(n):
        _velocity(tree, i, v, work)
        _start(tree, i, work)
    block = np.empty((4, 3, 3))
    whole = np.empty((6, 6))
    for i in range(n - 1, -1, -1):
        if tree.kind[i] == FLOATING:
            _free(tree, i, tau, work, scratch, whole)
        else:
            _project(tree, i, v, tau, work, scratch)
        if i > 0:
            _to_parent(tree, i, work, block)
    for i in range(n):
        _accelerate(tree, i, v, gravity, work, scratch, a)


@kernel
def _velocity(tree, i, v, work):
    p = tree.parent[i]
    r, t = work.rotation[i], work.translation[i]
    wx, wy, wz, lx, ly, lz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    if p >= 0:
        wx, wy, wz = work.omega[p, 0], work.omega[p, 1], work.omega[p, 2]
        cx, cy, cz = cross(wx, wy, wz, t[0], t[1], t[2])
        lx, ly, lz = work.linear[p, 0] + cx, work.linear[p, 1] + cy, work.linear[p, 2] + cz
        lx, ly, lz = backward(r, lx, ly, lz)
        wx, wy, wz = backward(r, wx, wy, wz)
    c = tree.freedom[i]
    if tree.kind[i] == FLOATING:
        wx, wy, wz = wx + v[c], wy + v[c + 1], wz + v[c + 2]
        lx, ly, lz = lx + v[c + 3], ly + v[c + 4], lz + v[c + 5]
    elif c >= 0:
        sx, sy, sz = tree.axis[i, 0] * v[c], tree.axis[i, 1] * v[c], tree.axis[i, 2] * v[c]
        if tree.kind[i] == REVOLUTE:
            wx, wy, wz = wx + sx, wy + sy, wz + sz
        else:
            lx, ly, lz = lx + sx, ly + sy, lz + sz
    work.omega[i, 0], work.omega[i, 1], work.omega[i, 2] = wx, wy, wz
    work.linear[i, 0], work.linear[i, 1], work.linear[i, 2] = lx, ly, lz


@kernel
def _start(tree, i, work):
    """The body's own inertia, and the force that its velocity alone calls for."""
    body_inertia(tree, i, work)
    m, h = work.mass[i], work.first_moment[i]
    work.heft[i] = 0.0
    for j in range(3):
        work.heft[i, j, j] = m
        work.coupling[i, j, j] = 0.0
    work.coupling[i, 0, 1], work.coupling[i, 0, 2] = -h[2], h[1]
    work.coupling[i, 1, 0], work.coupling[i, 1, 2] = h[2], -h[0]
    work.coupling[i, 2, 0], work.coupling[i, 2, 1] = -h[1], h[0]
    wx, wy, wz = work.omega[i, 0], work.omega[i, 1], work.omega[i, 2]
    lx, ly, lz = work.linear[i, 0], work.linear[i, 1], work.linear[i, 2]
    # Momentum about the origin, then its change while carried along: v x* (I v).
    ax, ay, az = forward(work.inertia[i], wx, wy, wz)
    bx, by, bz = cross(h[0], h[1], h[2], lx, ly, lz)
    ax, ay, az = ax + bx, ay + by, az + bz
    px, py, pz = cross(wx, wy, wz, h[0], h[1], h[2])
    px, py, pz = px + m * lx, py + m * ly, pz + m * lz
    nx, ny, nz = cross(wx, wy, wz, ax, ay, az)
    ox, oy, oz = cross(lx, ly, lz, px, py, pz)
    fx, fy, fz = cross(wx, wy, wz, px, py, pz)
    work.moment[i, 0], work.moment[i, 1], work.moment[i, 2] = nx + ox, ny + oy, nz + oz
    work.force[i, 0], work.force[i, 1], work.force[i, 2] = fx, fy, fz


@kernel
def _carried(tree, i, v, work):
    """The acceleration that joint motion at constant speed has: v x (S qd), six scalars."""
    c = tree.freedom[i]
    if c < 0:
        return 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    if tree.kind[i] == FLOATING:
        w, u = work.omega[i], work.linear[i]
        ax, ay, az = cross(w[0], w[1], w[2], v[c], v[c + 1], v[c + 2])
        bx, by, bz = cross(u[0], u[1], u[2], v[c], v[c + 1], v[c + 2])
        dx, dy, dz = cross(w[0], w[1], w[2], v[c + 3], v[c + 4], v[c + 5])
        return ax, ay, az, bx + dx, by + dy, bz + dz
    sx, sy, sz = tree.axis[i, 0] * v[c], tree.axis[i, 1] * v[c], tree.axis[i, 2] * v[c]
    w, u = work.omega[i], work.linear[i]
    ax, ay, az = cross(w[0], w[1], w[2], sx, sy, sz)
    if tree.kind[i] == REVOLUTE:
        bx, by, bz = cross(u[0], u[1], u[2], sx, sy, sz)
        return ax, ay, az, bx, by, bz
    return 0.0, 0.0, 0.0, ax, ay, az


@kernel
def _project(tree, i, v, tau, work, scratch):
    """Take the joint's freedom out of the articulated inertia and force, in place."""
    c = tree.freedom[i]
    inertia, coupling, heft = work.inertia[i], work.coupling[i], work.heft[i]
    moment, force = work.moment[i], work.force[i]
    if c >= 0:
        s = tree.axis[i]
        if tree.kind[i] == REVOLUTE:
            ux, uy, uz = forward(inertia, s[0], s[1], s[2])
            fx, fy, fz = backward(coupling, s[0], s[1], s[2])
            d = s[0] * ux + s[1] * uy + s[2] * uz
            u = tau[c] - (s[0] * moment[0] + s[1] * moment[1] + s[2] * moment[2])
        else:
            ux, uy, uz = forward(coupling, s[0], s[1], s[2])
            fx, fy, fz = forward(heft, s[0], s[1], s[2])
            d = s[0] * fx + s[1] * fy + s[2] * fz
            u = tau[c] - (s[0] * force[0] + s[1] * force[1] + s[2] * force[2])
        d += tree.rotor[c]
        row = scratch[i]
        row[0], row[1], row[2], row[3], row[4], row[5] = ux, uy, uz, fx, fy, fz
        row[6], row[7] = d, u
        over = 1.0 / d
        for j in range(3):
            for k in range(3):
                inertia[j, k] -= row[j] * row[k] * over
                coupling[j, k] -= row[j] * row[3 + k] * over
                heft[j, k] -= row[3 + j] * row[3 + k] * over
        for j in range(3):
            moment[j] += row[j] * u * over
            force[j] += row[3 + j] * u * over
    ax, ay, az, bx, by, bz = _carried(tree, i, v, work)
    mx, my, mz = forward(inertia, ax, ay, az)
    nx, ny, nz = forward(coupling, bx, by, bz)
    moment[0] += mx + nx
    moment[1] += my + ny
    moment[2] += mz + nz
    mx, my, mz = backward(coupling, ax, ay, az)
    nx, ny, nz = forward(heft, bx, by, bz)
    force[0] += mx + nx
    force[1] += my + ny
    force[2] += mz + nz


@kernel
def _free(tree, i, tau, work, scratch, whole):
    """What floats accelerates by itself, and passes on nothing but its effort."""
    c = tree.freedom[i]
    inertia, coupling, heft = work.inertia[i], work.coupling[i], work.heft[i]
    answer = scratch[i, :6]
    for j in range(3):
        for k in range(3):
            whole[j, k] = inertia[j, k]
            whole[j, 3 + k] = coupling[j, k]
            whole[3 + k, j] = coupling[j, k]
            whole[3 + j, 3 + k] = heft[j, k]
        answer[j] = tau[c + j] - work.moment[i, j]
        answer[3 + j] = tau[c + 3 + j] - work.force[i, j]
    factorise(whole)
    solve_factorised(whole, answer)
    inertia[:, :] = 0.0
    coupling[:, :] = 0.0
    heft[:, :] = 0.0
    work.moment[i] = tau[c : c + 3]
    work.force[i] = tau[c + 3 : c + 6]


@kernel
def _to_parent(tree, i, work, block):
    """Express the articulated inertia and force in the parent's frame and add them there."""
    p = tree.parent[i]
    r, t = work.rotation[i], work.translation[i]
    inertia, coupling, heft, shifted = block[0], block[1], block[2], block[3]
    rotate_tensor(r, work.inertia[i], inertia)
    rotate_tensor(r, work.coupling[i], coupling)
    rotate_tensor(r, work.heft[i], heft)
    # With P the cross-product matrix of t: coupling + P heft, one column at a time.
    for k in range(3):
        x, y, z = cross(t[0], t[1], t[2], heft[0, k], heft[1, k], heft[2, k])
        shifted[0, k] = coupling[0, k] + x
        shifted[1, k] = coupling[1, k] + y
        shifted[2, k] = coupling[2, k] + z
    for j in range(3):
        # inertia - (coupling + P heft) P + P coupling^T: rows and columns are cross products too.
        x, y, z = cross(t[0], t[1], t[2], shifted[j, 0], shifted[j, 1], shifted[j, 2])
        inertia[j, 0] += x
        inertia[j, 1] += y
        inertia[j, 2] += z
        x, y, z = cross(t[0], t[1], t[2], coupling[j, 0], coupling[j, 1], coupling[j, 2])
        inertia[0, j] += x
        inertia[1, j] += y
        inertia[2, j] += z
    for j in range(3):
        for k in range(3):
            work.inertia[p, j, k] += inertia[j, k]
            work.coupling[p, j, k] += shifted[j, k]
            work.heft[p, j, k] += heft[j, k]
    force_to_parent(tree, i, work)


@kernel
def _accelerate(tree, i, v, gravity, work, scratch, a):
    p = tree.parent[i]
    r, t = work.rotation[i], work.translation[i]
    if p < 0:
        ex, ey, ez = 0.0, 0.0, 0.0
        lx, ly, lz = backward(r, -gravity[0], -gravity[1], -gravity[2])
    else:
        ex, ey, ez = work.omega_rate[p, 0], work.omega_rate[p, 1], work.omega_rate[p, 2]
        cx, cy, cz = cross(ex, ey, ez, t[0], t[1], t[2])
        lx, ly, lz = work.acceleration[p, 0], work.acceleration[p, 1], work.acceleration[p, 2]
        lx, ly, lz = backward(r, lx + cx, ly + cy, lz + cz)
        ex, ey, ez = backward(r, ex, ey, ez)
    ax, ay, az, bx, by, bz = _carried(tree, i, v, work)
    ex, ey, ez, lx, ly, lz = ex + ax, ey + ay, ez + az, lx + bx, ly + by, lz + bz
    c = tree.freedom[i]
    if tree.kind[i] == FLOATING:
        row = scratch[i]
        carried = (ex, ey, ez, lx, ly, lz)
        for k in range(6):
            a[c + k] = row[k] - carried[k]
        ex, ey, ez, lx, ly, lz = row[0], row[1], row[2], row[3], row[4], row[5]
    elif c >= 0:
        row = scratch[i]
        along = row[0] * ex + row[1] * ey + row[2] * ez + row[3] * lx + row[4] * ly + row[5] * lz
        a[c] = (row[7] - along) / row[6]
        sx, sy, sz = tree.axis[i, 0] * a[c], tree.axis[i, 1] * a[c], tree.axis[i, 2] * a[c]
        if tree.kind[i] == REVOLUTE:
            ex, ey, ez = ex + sx, ey + sy, ez + sz
        else:
            lx, ly, lz = lx + sx, ly + sy, lz + sz
    work.omega_rate[i, 0], work.omega_rate[i, 1], work.omega_rate[i, 2] = ex, ey, ez
    work.acceleration[i, 0], work.acceleration[i, 1], work.acceleration[i, 2] = lx, ly, lz


@entry
def batch_forward_dynamics(tree, q, v, tau, gravity, a):
    """Accelerations (b, m) for positions (b, n), velocities and efforts (b, m)."""
    n = tree.parent.shape[0]
    work = new_work(n)
    scratch = np.empty((n, 8))
    for b in range(q.shape[0]):
        forward_dynamics(tree, q[b], v[b], tau[b], gravity, work, scratch, a[b])
