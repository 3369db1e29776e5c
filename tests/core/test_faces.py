"""Faces in photographs: where they are found, where none is, and what they do to a photograph's colours."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from bisectum.core.model.face import BROWS, EYES, MOUTH, Face
from bisectum.core.raster.din99o import lab_image
from bisectum.core.steps.colours.photo.faces import find_faces
from tests.support.photos import treated
from tests.support.strangers import RGB, resized, shipped

# The astronaut of scikit-image, px, put by eye on an enlarged picture: pupils, corners of the mouth, and chin.
PUPILS, MOUTH_CORNERS, CHIN = ((202.5, 101.0), (246.0, 103.5)), ((203.0, 140.0), (244.5, 141.0)), (225.0, 178.0)


def middles(face: Face) -> NDArray[np.float64]:
    """Of eyes and mouth: (3, 2)."""
    return np.array([face.points[list(part)].mean(axis=0) for part in (*EYES, MOUTH)])


def one_face(rgba: RGB) -> Face:
    faces = find_faces(np.ascontiguousarray(rgba))
    assert len(faces) == 1
    faces[0].check()
    return faces[0]


def test_the_points_of_a_face_lie_where_they_are_seen() -> None:
    face = one_face(shipped("astronaut"))
    assert np.abs(middles(face)[:2] - PUPILS).max() < 3
    mouth = face.points[list(MOUTH)]
    assert np.abs([mouth[mouth[:, 0].argmin()] - MOUTH_CORNERS[0], mouth[mouth[:, 0].argmax()] - MOUTH_CORNERS[1]]).max() < 4
    assert abs(face.oval[:, 1].max() - CHIN[1]) < 5 and face.holds(*MOUTH_CORNERS[0])
    for eye, brow in zip(EYES, BROWS, strict=True):
        assert face.points[list(brow), 1].max() < face.points[list(eye), 1].min() + 1


def test_a_face_is_found_wherever_it_lies_and_whichever_way_it_looks() -> None:
    rgba = shipped("astronaut")
    known = middles(one_face(rgba))
    mirrored = middles(one_face(rgba[:, ::-1]))[[1, 0, 2]]
    assert np.abs(np.column_stack([rgba.shape[1] - mirrored[:, 0], mirrored[:, 1]]) - known).max() < 3
    wide = np.full((1200, 1800, 4), 200, np.uint8)
    wide[500:1012, 1100:1612] = rgba  # the face is 5 % as wide as the picture
    assert np.abs(middles(one_face(wide)) - known - [1100, 500]).max() < 4
    turn = cv2.getRotationMatrix2D((224, 120), 25, 1.0)
    turned = np.asarray(cv2.warpAffine(rgba, turn, (512, 512), borderMode=cv2.BORDER_REPLICATE), np.uint8)
    assert np.abs(middles(one_face(turned)) - (known @ turn[:, :2].T + turn[:, 2])).max() < 4
    close = middles(one_face(rgba[40:220, 130:320]))
    assert np.abs(close - known + np.array([130, 40])).max() < 4


@pytest.mark.parametrize("name", ["chelsea", "coffee", "rocket", "china", "flower", "horse", "brick", "moon", "coins", "logo"])
def test_no_face_is_seen_where_there_is_none(name: str) -> None:
    assert find_faces(resized(shipped(name), 800_000)) == ()


def test_a_side_that_the_nose_hides_is_no_feature() -> None:
    face = one_face(shipped("astronaut"))
    points = face.points.copy()
    middle = points[list(EYES[1]), 0].mean()
    points[list(EYES[1]), 0] = middle + 0.3 * (points[list(EYES[1]), 0] - middle)
    assert len(face.features()) == 7 and len(Face(points, 1.0).features()) == 5


def drawn_features(rgba: RGB, face: Face, fields: dict[str, Any]) -> float:
    """Of what is darkest in each feature of a face, the share that is drawn darker than most of the face, less the share of
    what is lightest there."""
    label_map = next(iter(treated(rgba, fields).courses.values())).label_map
    height, width = label_map.labels.shape
    colours = np.array([(255, 255, 255), *(colour.rgb for colour in label_map.palette.colours)], np.uint8)[label_map.labels]
    picture = cv2.resize(np.ascontiguousarray(rgba[..., :3]), (width, height), interpolation=cv2.INTER_AREA)
    made, wanted = (lab_image(np.asarray(own, np.uint8))[..., 0] for own in (colours, picture))

    def within(ring: NDArray[np.float64]) -> NDArray[np.bool_]:
        mask = np.zeros((height, width), np.uint8)
        hull = cv2.convexHull(ring.astype(np.float32))[:, 0]
        cv2.fillPoly(mask, [np.rint(hull * width / rgba.shape[1]).astype(np.int32)], 1)
        return mask > 0

    is_dark = made < np.median(made[within(face.oval)]) - 20
    features = [(is_dark[own], wanted[own]) for own in map(within, face.features())]
    return float(np.mean([dark[light <= np.quantile(light, 0.3)].mean() - dark[light >= np.quantile(light, 0.7)].mean()
                          for dark, light in features]))


def test_a_face_keeps_its_features_until_somebody_says_that_it_is_none() -> None:
    rgba = np.ascontiguousarray(shipped("astronaut")[0:300, 60:360])
    face = one_face(rgba)
    kept = drawn_features(rgba, face, {})
    x, y = face.points.mean(axis=0) / rgba.shape[1]
    dismissed = drawn_features(rgba, face, {"not_faces": [(float(x), float(y))]})
    beside = drawn_features(rgba, face, {"not_faces": [(0.05, 0.9)]})
    assert kept > dismissed + 0.05 and kept > 0.6 and beside == kept


def test_an_eye_that_was_tapped_earns_an_ink() -> None:
    """The eyes of scikit-image's cat, put by eye; of four inks they have none of their own until they are tapped."""
    rgba = shipped("chelsea")
    at, across = np.array([[175.0, 117.0], [278.0, 131.0]]), 65.0
    tapped = [{"kind": "eye", "points": [place], "width": across / rgba.shape[1]} for place in (at / rgba.shape[1]).tolist()]

    def share_at_iris(marks: list[dict[str, Any]]) -> float:
        label_map = next(iter(treated(rgba, {"count": 4, "light_marks": marks}).courses.values())).label_map
        x, y = np.rint(np.array([152.0, 117.0]) * label_map.labels.shape[1] / rgba.shape[1]).astype(int)
        return label_map.palette.colours[label_map.labels[y, x] - 1].share

    assert share_at_iris(tapped) < 0.1 and share_at_iris([]) > 0.3
