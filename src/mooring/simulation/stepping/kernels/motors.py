"""What motors do in a step: an effort that falls with the speed reached by its end."""

from __future__ import annotations

import numpy as np

from mooring.compiling import kernel
from mooring.simulation.stepping.arrays import BY_MOTION, BY_POSITION, BY_VELOCITY


@kernel
def demands(motors, commands, target, speed, q, h, weight, integral, base, fall):
    """Each motor's effort at standstill, and how it falls with speed at the end of the step.

    Args:
        target, speed: of each freedom (m,) by the timeline, at the end of the step.
        q: positions of the freedoms (m,).
        h: the step; 0 for the effort right now.
        weight: efforts that hold the machine up (m,).
        integral: of the position errors (motors,).
        base, fall: the answer (motors,): the effort is base - fall * speed, up to its limit.
    """
    for k in range(motors.freedom.shape[0]):
        c = motors.freedom[k]
        goal, rate, told = target[c], speed[c], commands.effort[k]
        if commands.held[k]:
            goal, rate = commands.position[k], commands.velocity[k]
        if motors.weightless[k]:
            told += weight[c]
        p, d = motors.p[k], motors.d[k]
        base[k], fall[k] = told, 0.0
        if motors.mode[k] == BY_VELOCITY:
            most = motors.speed[k]
            base[k], fall[k] = told + d * min(most, max(-most, rate)), d
        elif motors.mode[k] == BY_POSITION:
            error = goal - q[c]
            pull = p * error + motors.i[k] * integral[k]
            base[k], fall[k] = told + pull + d * rate, d + h * p
            # Like a servo drive's: the speed that it aims for has a limit.
            aim = pull + d * rate
            if d > 0.0 and abs(aim) > d * motors.speed[k]:
                base[k] = told + (d if aim > 0.0 else -d) * motors.speed[k]
                fall[k] = d


@kernel
def resaturate(motors, base, fall, v, saturated):
    """Find out which motors are at their limits at the speeds reached; returns whether any that
    was thought to be is not, or the other way round."""
    changed = False
    for k in range(motors.freedom.shape[0]):
        if motors.mode[k] == BY_MOTION:
            continue
        limit = motors.effort[k]
        wanted = base[k] - fall[k] * v[motors.freedom[k]]
        slack = 1e-9 * limit
        now = saturated[k]
        if now == 0:
            if wanted > limit + slack:
                now = 1
            elif wanted < -limit - slack:
                now = -1
        elif now * wanted < limit - slack:
            now = 0
        if now != saturated[k]:
            saturated[k] = now
            changed = True
    return changed


@kernel
def integrate_errors(motors, commands, target, q, v, h, saturated, integral):
    """Let the integral parts grow, but not while the motor gives all it can."""
    for k in range(motors.freedom.shape[0]):
        if motors.mode[k] == BY_POSITION and motors.i[k] > 0.0 and saturated[k] == 0:
            c = motors.freedom[k]
            goal = commands.position[k] if commands.held[k] else target[c]
            integral[k] += h * (goal - q[c] - h * v[c])


@kernel
def note_efforts(
    freedom, mode, limit, trips, base, fall, before, v, saturated, efforts, tripped, noted, time, h,
):  # fmt: skip
    """What motors gave in the step; returns their work."""
    work = 0.0
    for j in range(freedom.shape[0]):
        if mode[j] == BY_MOTION:
            continue
        c = freedom[j]
        wanted = base[j] - fall[j] * v[c]
        effort = min(limit[j], max(-limit[j], wanted))
        if tripped[j] < np.inf:
            effort = 0.0
        efforts[j] = effort
        work += 0.5 * h * effort * (v[c] + before[c])
        if saturated[j] != 0:
            noted[j, 0] = min(noted[j, 0], time)
            noted[j, 1] += h
            noted[j, 2] = max(noted[j, 2], abs(wanted))
            if trips[j]:
                tripped[j] = min(tripped[j], time)
    return work
