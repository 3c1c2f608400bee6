"""Pictures carried by a homography, written as computation.md states it: whole arrays, float64, OpenCV for areas."""

from __future__ import annotations

import cv2
import numpy as np


def homography(corners, width, height):
    """The matrix that carries the rectangle of a size onto four corners, by solving its eight equations."""
    rows, right = [], []
    for (x, y), (u, v) in zip([(0, 0), (width, 0), (width, height), (0, height)], corners, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    return np.append(np.linalg.solve(np.array(rows, float), np.array(right, float)), 1).reshape(3, 3)


def carried(h, x, y):
    u, v, w = (row[0] * x + row[1] * y + row[2] for row in h)
    return u / w, v / w


def area(corners):
    x, y = np.array(corners, float).T
    return abs(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y)) / 2


def cubic(t):
    t = np.abs(t)
    return np.where(t <= 1, 1.5 * t**3 - 2.5 * t**2 + 1, np.where(t < 2, -0.5 * t**3 + 2.5 * t**2 - 4 * t + 2, 0))


def sampled(source, alpha, h, width, height):
    """Colour and coverage where h carries the centres of a target's pixels, bicubic; source (h, w, c), alpha (h, w)."""
    y, x = np.mgrid[0:height, 0:width] + 0.5
    u, v = (c - 0.5 for c in carried(h, x, y))
    left, top = np.floor(u).astype(int), np.floor(v).astype(int)
    total, colour = np.zeros((height, width)), np.zeros((height, width, source.shape[2]))
    for dy in range(-1, 3):
        for dx in range(-1, 3):
            i, j = top + dy, left + dx
            inside = (i >= 0) & (i < source.shape[0]) & (j >= 0) & (j < source.shape[1])
            i, j = np.clip(i, 0, source.shape[0] - 1), np.clip(j, 0, source.shape[1] - 1)
            weight = cubic(u - (left + dx)) * cubic(v - (top + dy)) * inside * alpha[i, j]
            total += weight
            colour += weight[..., None] * source[i, j]
    return finished(total, colour)


def averaged(source, alpha, h, width, height):
    """Colour and coverage of the mean over each pixel's area as h carries it."""
    y, x = np.mgrid[0 : height + 1, 0 : width + 1].astype(float)
    u, v = carried(h, x, y)
    total, colour = np.zeros((height, width)), np.zeros((height, width, source.shape[2]))
    for i in range(height):
        for j in range(width):
            quad = np.array([[p[a, b] for p in (u, v)] for a, b in ((i, j), (i, j + 1), (i + 1, j + 1), (i + 1, j))])
            left, top = np.floor(quad.min(0)).astype(int)
            right, bottom = np.ceil(quad.max(0)).astype(int)
            for row in range(max(top, 0), min(bottom, source.shape[0])):
                for column in range(max(left, 0), min(right, source.shape[1])):
                    pixel = np.array([[column, row], [column + 1, row], [column + 1, row + 1], [column, row + 1]])
                    near = quad.mean(0)
                    shares, _ = cv2.intersectConvexConvex(
                        (quad - near).astype(np.float32), (pixel - near).astype(np.float32)
                    )
                    weight = shares / area(quad) * alpha[row, column]
                    total[i, j] += weight
                    colour[i, j] += weight * source[row, column]
    return finished(total, colour)


def finished(total, colour):
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(total[..., None] > 1e-9, colour / total[..., None], 0), np.clip(total, 0, 1)


def placed(source, alpha, place, width, height):
    """A picture laid on a canvas of a size: colour (h, w, 3) and coverage (h, w)."""
    h, w = source.shape[:2]
    if "corners" in place:
        corners = np.array(place["corners"], float)
    else:
        turn, scale = np.deg2rad(place.get("rotation", 0)), place.get("scale", 1)
        axes = scale * np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
        spans = np.array([[-w, -h], [w, -h], [w, h], [-w, h]]) / 2
        corners = np.array([place.get("x", width / 2), place.get("y", height / 2)]) + spans @ axes
    back = np.linalg.inv(homography(corners, w, h))
    draw = sampled if w * h / area(corners) <= 1 + 1e-9 else averaged
    colour, cover = draw(source, alpha, back, width, height)
    y, x = np.mgrid[0:height, 0:width] + 0.5
    middle = corners.mean(0)
    facing = (back[2] @ [*middle, 1]) * (back[2, 0] * x + back[2, 1] * y + back[2, 2]) > 0
    return colour, cover * facing


def framed(picture, frame):
    """A picture (h, w, c) through a frame: the sheet."""
    width, height = frame["size"]
    border = {"left": 0, "top": 0, "right": 0, "bottom": 0, "colour": [1, 1, 1], **(frame.get("border") or {})}
    of_border = np.array(border["colour"], float)
    outside = np.array(frame.get("outside") or of_border)
    h = homography(frame["corners"], width, height)
    draw = sampled if area(frame["corners"]) / (width * height) <= 1 + 1e-9 else averaged
    colour, cover = draw(picture, np.ones(picture.shape[:2]), h, width, height)
    crop = cover[..., None] * colour + (1 - cover[..., None]) * outside
    sheet = np.empty((height + border["top"] + border["bottom"], width + border["left"] + border["right"], 3))
    sheet[:] = of_border
    sheet[border["top"] : border["top"] + height, border["left"] : border["left"] + width] = crop
    return sheet
