"""A travel as CSV, one row a frame."""

import numpy as np

from coaster.motion.sampling import Sampled

HEADER = "frame,time,x,y,angle,travelled,speed"


def to_csv(sampled: Sampled) -> str:
    """Return rows of frame, time (s), x and y (px), angle (degrees), travelled (px), speed (px/s).

    Accuracy: written to a millionth.
    """
    ridden, fps = sampled.travel, sampled.rate.fps
    frames = np.arange(len(ridden.along))
    columns = [
        frames / fps,
        *ridden.position.T,
        ridden.angle(sampled.turn_deg),
        ridden.travelled,
        np.abs(ridden.rate) * fps,
    ]
    rows = (
        f"{frame}," + ",".join(f"{value:.6f}" for value in row)
        for frame, row in zip(frames, np.stack(columns, axis=1) + 0.0, strict=True)
    )
    return HEADER + "\n" + "\n".join(rows) + "\n"
