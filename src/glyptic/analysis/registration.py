"""One picture of a scene laid exactly over another: features and a homography (D. Lowe 2004, SIFT; D. Barath et al.
2020, MAGSAC++), refined by correlating patches (C. Kuglin and D. Hines 1975, phase correlation)."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Grey = NDArray[np.uint8]
Matrix = NDArray[np.float64]

MOST_FEATURES = 4000
RATIO = 0.75
"""How much nearer the best match must be than the second best."""
NEAR = 3.0
"""Pixels within which a match agrees with the homography."""
FEWEST, LEAST_SHARE = 20, 0.15
ROUNDS, CLOSE = 3, 0.15
"""Rounds of refining at most; pixels within which no other is needed."""
CHECKED = 18
"""Places across and down at which the two are compared."""
PATCH = 64
LEAST_DETAIL, LEAST_SURE = 5.0, 0.2
"""The least spread of grey values in a patch that can tell where it belongs, and of how sure the comparison is."""


@dataclass(frozen=True)
class Registered:
    """matrix: carries pixels of the picture to pixels of what it lies over. error: the median remaining error in
    pixels; places: at how many places it was measured."""

    matrix: Matrix
    error: float
    places: int


def _alike(grey: Grey) -> Grey:
    """Local contrast evened, so that renditions of different exposure look alike."""
    return np.asarray(cv2.createCLAHE(4.0, (8, 8)).apply(grey), np.uint8)


def register(picture: Grey, over: Grey) -> Matrix | None:
    """What carries pixels of a picture to where they belong on another, both grey 8-bit of any size; None where the two
    do not match."""
    return _by_features(_alike(picture), _alike(over))


def refined(picture: Grey, over: Grey, start: Matrix) -> Registered:
    """A homography near the true one brought closer, patch by patch, and how far the two still are apart."""
    mine, theirs = _alike(picture), _alike(over)
    places, off = _compared(mine, theirs, start)
    best = Registered(start, *_error(off))
    for _ in range(ROUNDS):
        if len(places) < FEWEST or best.error < CLOSE:
            break
        here = cv2.perspectiveTransform(places[:, None], np.linalg.inv(best.matrix))
        matrix = np.asarray(
            cv2.findHomography(here, (places + off)[:, None], cv2.USAC_MAGSAC, 1.0, maxIters=500)[0], np.float64
        )
        if matrix.shape != (3, 3):
            break
        places, off = _compared(mine, theirs, matrix)
        closer = Registered(matrix, *_error(off))
        if closer.error >= best.error:
            break
        best = closer
    return best


def _error(off: Matrix) -> tuple[float, int]:
    return (float(np.median(np.hypot(off[:, 0], off[:, 1]))) if len(off) else float("inf")), len(off)


def _by_features(mine: Grey, theirs: Grey) -> Matrix | None:
    finder = cv2.SIFT.create(nfeatures=MOST_FEATURES)
    places, words = finder.detectAndCompute(mine, None)
    their_places, their_words = finder.detectAndCompute(theirs, None)
    if min(len(places), len(their_places)) < FEWEST:
        return None
    pairs = cv2.BFMatcher(cv2.NORM_L2).knnMatch(words, their_words, k=2)
    good = [pair[0] for pair in pairs if len(pair) == 2 and pair[0].distance < RATIO * pair[1].distance]
    if len(good) < FEWEST:
        return None
    here = np.array([places[match.queryIdx].pt for match in good], np.float64)
    there = np.array([their_places[match.trainIdx].pt for match in good], np.float64)
    matrix, agree = cv2.findHomography(here, there, cv2.USAC_MAGSAC, NEAR, maxIters=5000, confidence=0.999)
    if matrix is None or agree.sum() < max(FEWEST, LEAST_SHARE * len(good)):
        return None
    return np.asarray(matrix, np.float64)


def _compared(mine: Grey, theirs: Grey, matrix: Matrix) -> tuple[Matrix, Matrix]:
    """(places (n, 2), how far (n, 2) what is laid there lies from where it belongs) of patches with detail in both."""
    height, width = theirs.shape
    laid = cv2.warpPerspective(mine, matrix, (width, height), flags=cv2.INTER_CUBIC)
    inside = cv2.warpPerspective(np.full_like(mine, 255), matrix, (width, height), flags=cv2.INTER_NEAREST)
    window = cv2.createHanningWindow((PATCH, PATCH), cv2.CV_32F)
    places, off = [], []
    for y in np.linspace(0, height - PATCH, CHECKED).astype(int):
        for x in np.linspace(0, width - PATCH, CHECKED).astype(int):
            part = np.s_[y : y + PATCH, x : x + PATCH]
            if inside[part].min() == 0 or min(theirs[part].std(), laid[part].std()) < LEAST_DETAIL:
                continue
            by, sure = cv2.phaseCorrelate(laid[part].astype(np.float32), theirs[part].astype(np.float32), window)
            if sure > LEAST_SURE:
                places.append((x + PATCH / 2 - 0.5, y + PATCH / 2 - 0.5))
                off.append(by)
    return np.array(places, np.float64).reshape(-1, 2), np.array(off, np.float64).reshape(-1, 2)
