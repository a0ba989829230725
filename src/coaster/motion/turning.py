"""From one attitude to the next the short way: as one rotation, not as three angles."""

import numpy as np

from coaster.geometry.bezier import Floats

UPRIGHT = 1e-9
"""Cosine of a swing at which a tilt and a turn do the same."""
ALIKE = 1e-9
"""Half an angle, radians, below which two attitudes are mixed evenly."""


def short_way(stops: Floats, met: Floats, times: Floats, now: Floats) -> Floats:
    """Return turn, tilt and swing (n, 3) at ``times`` (n,), so that what is between two ``stops``
    (m,) goes from the attitude at one to that at the next by the one rotation that is shortest.

    Shapes:     ``met`` (m, 3) are the angles at the stops, ``now`` (n, 3) as keys have them at the
                times: of the first that changes between two stops its share is taken.
    Units:      radians; swung about what is upright and then tilted about what is level, after the
                turn (see ``geometry.depth.leaning``).
    Accuracy:   1e-12 of the rotation; every stop is met.
    Degenerate: before the first stop and after the last it rests; half a turn goes either way.
    Source:     Shoemake, 'Animating rotation with quaternion curves' (1985).
    """
    if len(stops) < 2:
        return now
    k = np.clip(np.searchsorted(stops, times, "right") - 1, 0, len(stops) - 2)
    gain = met[k + 1] - met[k]
    which = np.argmax(np.abs(gain) > 0, axis=1)[:, None]
    far = np.take_along_axis(gain, which, 1)[:, 0]
    gone = np.take_along_axis(now - met[k], which, 1)[:, 0]
    share = np.divide(gone, far, out=np.zeros_like(far), where=far != 0)
    attitudes = _quaternions(met)
    return _angles(_mixed(attitudes[k], attitudes[k + 1], share))


def _quaternions(angles: Floats) -> Floats:
    """Return attitudes (n, 4): scalar, then x, y, z."""
    turn, tilt, swing = angles.T / 2
    zero = np.zeros_like(turn)
    about_z = np.stack([np.cos(turn), zero, zero, np.sin(turn)], 1)
    about_y = np.stack([np.cos(swing), zero, -np.sin(swing), zero], 1)
    about_x = np.stack([np.cos(tilt), -np.sin(tilt), zero, zero], 1)
    return _product(_product(about_x, about_y), about_z)


def _product(a: Floats, b: Floats) -> Floats:
    """Return quaternions (n, 4) that turn as b does, and then as a does."""
    scalar = a[:, :1] * b[:, :1] - (a[:, 1:] * b[:, 1:]).sum(1, keepdims=True)
    vector = a[:, :1] * b[:, 1:] + b[:, :1] * a[:, 1:] + np.cross(a[:, 1:], b[:, 1:])
    return np.hstack([scalar, vector])


def _mixed(a: Floats, b: Floats, share: Floats) -> Floats:
    """Return what is a share (n,) of the way from a to b on the sphere, beyond them as well."""
    near = (a * b).sum(1)
    # The same attitude has two signs; the other one would go the long way.
    b, near = np.where(near < 0, -1.0, 1.0)[:, None] * b, np.abs(near)
    angle = np.arccos(np.clip(near, -1.0, 1.0))
    apart = angle > ALIKE
    whole = np.where(apart, np.sin(angle), 1.0)
    first = np.where(apart, np.sin((1 - share) * angle) / whole, 1 - share)
    second = np.where(apart, np.sin(share * angle) / whole, share)
    return first[:, None] * a + second[:, None] * b


def _angles(attitudes: Floats) -> Floats:
    """Return turn, tilt and swing (n, 3) of attitudes (n, 4)."""
    w, x, y, z = attitudes.T
    right, down = 1 - 2 * (y * y + z * z), 2 * (w * z - x * y)
    # Of the cosine itself: near a quarter the sine tells little.
    cosine = np.hypot(right, down)
    swing = np.arctan2(-2 * (x * z + w * y), cosine)
    plain = cosine > UPRIGHT
    tilt = np.arctan2(2 * (y * z - w * x), 1 - 2 * (x * x + y * y))
    # Swung by a quarter, all of it is told as a turn.
    aside = np.arctan2(2 * (x * y + w * z), 1 - 2 * (x * x + z * z))
    turn = np.where(plain, np.arctan2(down, right), aside)
    return np.stack([turn, np.where(plain, tilt, 0.0), swing], 1)
