"""``check``: how clean a scene's loop is."""

import argparse
import json
from dataclasses import asdict
from math import isinf
from pathlib import Path as File

from coaster.export.seams import SeamPictures, seam_pictures
from coaster.formats import bundle
from coaster.render import seam
from coaster.render.evaluate import Evaluation


def add(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("scene", type=File, metavar="SCENE.json|BUNDLE.zip")
    parser.add_argument("--json", action="store_true", help="as JSON")


def run(options: argparse.Namespace) -> int:
    with bundle.open_bundle(options.scene) as (scene, folder):
        evaluation = Evaluation(scene)
        found, uneven = seam.report(evaluation), seam.unevenness(evaluation)
        pictures = seam_pictures(scene, folder)
    clean = all(one.clean for one in found) and pictures.clean
    if options.json:
        told = {"clean": clean, "pixels": _pixels(pictures), "unevenness_px": uneven.tolist()}
        print(json.dumps(told | {"layers": [_row(one) for one in found]}, indent=2))
    else:
        _print_table(found)
        print(pictures.words)
        print("The loop is clean." if clean else "The loop is not clean.")
    return 0 if clean else 1


def _row(one: seam.LayerSeam) -> dict[str, object]:
    fields = asdict(one)
    told = {"layer": fields.pop("layer_id"), "name": fields.pop("name")}
    told |= {"position_px": fields.pop("position"), "angle_deg": fields.pop("angle")}
    return told | fields | {"clean": one.clean, "reasons": one.reasons()}


def _pixels(pictures: SeamPictures) -> dict[str, object]:
    share = None if isinf(pictures.of_step) else pictures.of_step
    told: dict[str, object] = {"most": pictures.most, "share": pictures.share, "of_step": share}
    return told | {"clean": pictures.clean}


def _print_table(found: list[seam.LayerSeam]) -> None:
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
