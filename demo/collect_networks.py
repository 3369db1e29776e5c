"""Takes the shipped networks from their wheel: `python demo/collect_networks.py WHEEL`, WHEEL being that of mediapipe 0.10.14."""

from __future__ import annotations

import sys
import zipfile
from pathlib import Path

TARGET = Path(__file__).resolve().parents[1] / "src/bisectum/networks"
FILES = {
    "subject-square.tflite": "mediapipe/modules/selfie_segmentation/selfie_segmentation.tflite",
    "subject-wide.tflite": "mediapipe/modules/selfie_segmentation/selfie_segmentation_landscape.tflite",
    "face-near.tflite": "mediapipe/modules/face_detection/face_detection_short_range.tflite",
    "face-points.tflite": "mediapipe/modules/face_landmark/face_landmark.tflite",
    "LICENSE": "mediapipe-0.10.14.dist-info/LICENSE",
}


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    with zipfile.ZipFile(sys.argv[1]) as wheel:
        for name, source in FILES.items():
            (TARGET / name).write_bytes(wheel.read(source))


if __name__ == "__main__":
    main()
