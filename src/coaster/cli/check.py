"""``check``: how clean a scene's loop is."""

import argparse
import json
from pathlib import Path as File

from coaster.formats import bundle
from coaster.render import seam
from coaster.render.evaluate import Evaluation

WORDS = "report how clean a scene's loop is"


def add(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("scene", type=File, metavar="SCENE.json|BUNDLE.zip")
    parser.add_argument("--json", action="store_true", help="as JSON")


def run(options: argparse.Namespace) -> int:
    with bundle.open_bundle(options.scene) as (scene, _):
        found = seam.report(Evaluation(scene))
    clean = all(one.clean for one in found)
    if options.json:
        print(json.dumps({"clean": clean, "layers": [_row(one) for one in found]}, indent=2))
    else:
        _print_table(found, clean)
    return 0 if clean else 1


def _row(one: seam.LayerSeam) -> dict[str, object]:
    return {
        "layer": one.layer_id,
        "name": one.name,
        "position_px": one.position,
        "angle_deg": one.angle,
        "speed_end": one.speed_end,
        "speed_start": one.speed_start,
        "clean": one.clean,
    }


def _print_table(found: list[seam.LayerSeam], clean: bool) -> None:
    width = max([len(one.name) for one in found] + [len("layer")])
    print(
        f"{'layer':{width}}  {'px':>9}  {'degrees':>9}  {'px/s end':>9}  {'px/s start':>10}  seam"
    )
    for one in found:
        verdict = "clean" if one.clean else ", ".join(one.reasons())
        row = (
            f"{one.position:9.2f}  {one.angle:9.2f}  {one.speed_end:9.1f}  {one.speed_start:10.1f}"
        )
        print(f"{one.name:{width}}  {row}  {verdict}")
    print("The loop is clean." if clean else "The loop is not clean.")
