"""Every kind of layer passes one suite; a class a kind says what is special about it.

Neutral settings change no bit, tiles are the whole, the input is not written, finite stays finite, settings
round-trip, the ends of ranges are accepted and what lies beyond is refused by name.
"""

import numpy as np
import pytest
import skimage.color

from glyptic.adjust import KINDS
from glyptic.adjust.curves import sampled
from glyptic.adjust.grain import grains
from glyptic.adjust.grey import GREY
from glyptic.adjust.kind import PointWise
from glyptic.adjust.light import moved
from glyptic.adjust.white_balance import adaptation, daylight
from glyptic.base.errors import DocumentError
from glyptic.base.rectangles import Rect
from glyptic.document.codec import parse_layer
from glyptic.document.values import BLEND_MODES
from glyptic.document.writing import plain_layer
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.params import Group, Real
from glyptic.pixels.pyramid import Pyramid
from glyptic.pixels.shapes import Patch
from glyptic.pixels.spaces import SRGB, tone
from glyptic.pixels.transfer import lin
from tests.conftest import colourful, finished, picture_of
from tests.oracle.formulas import Colours
from tests.oracle.whole import Whole
from tests.tolerances import BLURRED, EXACT, FLOAT32, REDUCED_BASE

MASK = {"start": "closed", "parts": [{"kind": "oval", "centre": [150, 120], "radii": [110, 90], "softness": 0.5}]}
LINE = {"from": [20, 30], "to": [250, 200]}
STROKE = {"to": 1, "size": 90, "hardness": 0.3, "opacity": 0.7, "flow": 0.6, "points": [[40, 60], [220, 180]]}
STOPS = [{"at": 0, "colour": [0.1, 0.2, 0.9], "alpha": 0.8}, {"at": 1, "colour": [1, 0.6, 0.2], "alpha": 0.1}]

COLOURS = Colours()


class Suite:
    kind = ""
    strong: dict = {}
    """Settings that visibly change the picture."""
    neutral: dict | None = {}
    """Settings that change nothing in normal mode; None for a kind that has no such."""
    extra: dict = {}
    tied: tuple = ()
    """Settings whose ends another setting may rule out."""
    tolerance = EXACT
    steepest = 40
    """How much steeper than a ramp of colours what becomes of it may be; 0 for kinds that depend on the place."""

    def layer(self, settings, **more):
        return {"kind": self.kind, "settings": settings, **self.extra, **more}

    def test_neutral_settings_change_no_bit(self, picture):
        if self.neutral is None:
            pytest.skip("has no neutral settings")
        before = finished(picture, {"kind": "exposure", "settings": {"stops": 2}})
        assert before.max() > 1
        for mask in (None, MASK):
            layer = self.layer(self.neutral, mask=mask)
            after = finished(picture, {"kind": "exposure", "settings": {"stops": 2}}, layer)
            assert np.array_equal(before, after)

    def test_a_ramp_of_colours_stays_free_of_steps(self):
        if not self.steepest:
            pytest.skip("depends on the place")
        ends = np.array([[0.02, 0.1, 0.05], [0.9, 0.75, 1.0]])
        ramp = np.linspace(*ends, 8192).T[:, None]
        after = finished(picture_of((ramp * 65535).round().astype(np.uint16)), self.layer(self.strong))
        assert np.abs(np.diff(after[:, 0])).max() < self.steepest * np.diff(ramp[2, 0]).max()

    @pytest.mark.parametrize("state", [{"visible": False}, {"opacity": 0}, {"mask": {"start": "closed"}}])
    def test_a_layer_that_shows_nothing_changes_no_bit(self, picture, state):
        lifted = {"kind": "exposure", "settings": {"stops": 1}}
        assert np.array_equal(finished(picture, lifted), finished(picture, lifted, self.layer(self.strong, **state)))

    def test_strong_settings_change_the_picture(self, picture):
        assert np.abs(finished(picture, self.layer(self.strong)) - finished(picture)).max() > 0.02

    @pytest.mark.parametrize("level", [0, 1, 3])
    def test_tiles_are_the_whole(self, picture, level):
        layer = self.layer(self.strong, mask={**MASK, "feather": 5})
        whole = finished(picture, layer, level=level)
        _, h, w = whole.shape
        rect = Rect(w // 3, h // 4, w // 2, h // 2)
        part = finished(picture, layer, level=level, rect=rect)
        assert np.array_equal(part, whole[:, rect.y : rect.bottom, rect.x : rect.right])

    def test_agrees_with_the_independent_renderer(self):
        codes = colourful(90, 70)
        base = np.moveaxis(codes, 0, 2) / 65535
        for blend in ("normal", "overlay", "luminosity"):
            layer = self.layer(self.strong, blend=blend, opacity=0.8, mask=MASK)
            theirs = Whole({"layers": [None, layer]}, base).render()
            ours = np.moveaxis(finished(picture_of(codes), layer), 0, 2)
            assert np.abs(ours - theirs).max() < self.tolerance, blend

    @pytest.mark.parametrize("blend", BLEND_MODES)
    def test_finite_stays_finite(self, blend):
        wild = [{"kind": "exposure", "settings": {"stops": 6}}, {"kind": "exposure", "settings": {"offset": -0.9}}]
        px = finished(picture_of(colourful(40, 30)), *wild, self.layer(self.strong, blend=blend))
        assert np.isfinite(px).all()

    def test_a_strip_of_which_nothing_is_shown_keeps_every_bit(self):
        kind = KINDS[self.kind]
        layer = parse_layer(self.layer(self.strong), VOCABULARY, "layer")
        if not isinstance(kind, PointWise) or kind.channels(layer.settings) is not None:
            pytest.skip("is laid by the engine's tables or blur")
        px = colourful(40, 30) / np.float32(65535)
        before, patch = px.copy(), Patch(Rect(0, 0, 40, 30), 0, 40, 30)
        kind.lay(kind.ready(layer.settings, SRGB), px, np.zeros((30, 40), np.float32), patch)
        assert np.array_equal(px, before)

    def test_settings_round_trip(self):
        layer = parse_layer(self.layer(self.strong), VOCABULARY, "layer")
        assert parse_layer(plain_layer(layer, VOCABULARY), VOCABULARY, "layer") == layer

    def test_ends_of_ranges_are_accepted_and_beyond_is_refused_by_name(self):
        for path, param in numbers(KINDS[self.kind].schema.params):
            for end, beyond in ((param.low, param.low - 1), (param.high, param.high + 1)):
                if np.isinf(end):
                    continue
                if path[-1] not in self.tied and (param.above is None or end > param.above):
                    self.accept(path, end)
                with pytest.raises(DocumentError, match=path[-1]):
                    self.accept(path, beyond)

    def accept(self, path, value):
        settings = dict(self.strong)
        inner = settings
        for name in path[:-1]:
            inner[name] = dict(inner.get(name) or {})
            inner = inner[name]
        inner[path[-1]] = value
        parse_layer(self.layer(settings), VOCABULARY, "layer")


def numbers(params, path=()):
    for name, param in params.items():
        if isinstance(param, Real):
            yield (*path, name), param
        if isinstance(param, Group):
            yield from numbers(param.schema.params, (*path, name))


class TestExposure(Suite):
    kind = "exposure"
    strong = {"stops": -1.3, "offset": 0.02}

    def test_a_stop_up_and_a_stop_down_lose_nothing(self, picture):
        up_and_down = [{"kind": "exposure", "settings": {"stops": s}} for s in (3, -3)]
        assert np.abs(finished(picture, *up_and_down) - finished(picture)).max() < 1e-6

    def test_a_stop_doubles_the_light(self, picture):
        for before, after in zip(
            finished(picture).ravel()[::999], finished(picture, self.layer({"stops": 1})).ravel()[::999], strict=True
        ):
            assert lin(float(after)) == pytest.approx(2 * lin(float(before)), rel=2e-6, abs=1e-6)


class TestLevels(Suite):
    kind = "levels"
    tied = ("black", "white")
    strong = {"rgb": {"black": 0.1, "white": 0.8, "gamma": 1.4}, "blue": {"out_black": 0.2, "out_white": 0.7}}

    def test_a_channel_left_alone_keeps_every_bit(self, picture):
        lifted = {"kind": "exposure", "settings": {"stops": 1}}
        before, after = finished(picture, lifted), finished(picture, lifted, self.layer({"red": {"gamma": 2}}))
        assert np.array_equal(before[1:], after[1:]) and not np.array_equal(before[0], after[0])


class TestCurves(Suite):
    kind = "curves"
    steepest = 90
    strong = {
        "points": {
            "rgb": [[0, 0.1], [0.3, 0.5], [0.31, 0.9], [1, 0.7]],
            "red": [[0.2, 0], [0.9, 1]],
            "tone": [[0, 0], [0.4, 0.6], [1, 1]],
        }
    }
    neutral = {"points": {"rgb": [[0, 0], [0.3, 0.3], [1, 1]]}}

    def test_passes_through_its_points_and_is_monotone_between(self):
        points = ((0.0, 0.1), (0.25, 0.2), (0.5, 0.8), (0.75, 0.8), (1.0, 1.0))
        values = sampled(points, 1001)
        assert [values[int(x * 1000)] for x, _ in points] == pytest.approx([y for _, y in points], abs=1e-12)
        assert (np.diff(values) >= -1e-12).all() and np.ptp(values[500:751]) < 1e-12

    def test_tone_keeps_the_proportions_of_light(self, picture):
        before = finished(picture)
        after = finished(picture, self.layer({"points": {"tone": [[0, 0], [0.5, 0.35], [1, 0.9]]}}))
        r0, b0, r1, b1 = (np.vectorize(lin)(px[c][100:140, 100:140]) for px in (before, after) for c in (0, 2))
        assert np.abs(r0 * b1 - r1 * b0).max() < 1e-5


class TestInvert(Suite):
    kind = "invert"
    strong = {"strength": 0.9}

    def test_twice_gives_the_picture_back(self, picture):
        layer = self.layer({"strength": 1})
        assert np.abs(finished(picture, layer, layer) - finished(picture)).max() < 1e-6


def grey_ramp(count=4096):
    """Codes (3, 1, count) of every grey from black to white."""
    return np.repeat(np.linspace(0, 65535, count).round().astype(np.uint16)[None, None], 3, axis=0)


class ToneSuite(Suite):
    """Of kinds that are about tone: greys stay grey, a darker grey never overtakes a lighter one, no steps."""

    def test_a_ramp_of_greys_stays_grey_and_monotone_and_free_of_steps(self):
        ramp = finished(picture_of(grey_ramp()), self.layer(self.strong))[:, 0]
        assert np.ptp(ramp, axis=0).max() < 1e-5
        steps = np.diff(ramp[1].astype(np.float64))
        assert steps.min() > -1e-6 and steps.max() < 12 / 4095


class TestBrightnessContrast(ToneSuite):
    kind = "brightness-contrast"
    strong = {"brightness": 0.5, "contrast": 0.6}

    @pytest.mark.parametrize("settings", [{"brightness": 1}, {"brightness": -1, "contrast": 1}, {"contrast": -1}])
    def test_black_and_white_are_held(self, settings):
        ramp = finished(picture_of(grey_ramp()), self.layer(settings))[0, 0]
        assert ramp[[0, -1]] == pytest.approx([0, 1], abs=1e-6)
        assert (np.diff(ramp.astype(np.float64)) > -1e-7).all()

    def test_the_middle_goes_where_the_source_says(self):
        """Schlick 1994: bias(1/2) = b, gain(1/4) = g/2."""
        middle = np.full((3, 4, 4), 32768, np.uint16)
        quarter = np.full((3, 4, 4), 16384, np.uint16)
        assert finished(picture_of(middle), self.layer({"brightness": 0.5})).max() == pytest.approx(0.7, abs=1e-4)
        assert finished(picture_of(quarter), self.layer({"contrast": 0.5})).max() == pytest.approx(0.15, abs=1e-4)


class ColourSuite(Suite):
    """Of kinds that are about colour: what has none keeps its tone and gets none."""

    settings_for_greys: dict = {}

    def test_greys_stay_as_they_are(self):
        codes = grey_ramp()
        after = finished(picture_of(codes), self.layer(self.settings_for_greys or self.strong))
        assert np.abs(after[:, 0] - codes[:, 0] / 65535).max() < 2e-4


class TestVibrance(ColourSuite):
    kind = "vibrance"
    strong = {"vibrance": 0.8, "saturation": -0.2}

    def test_works_most_on_what_is_pale(self):
        pale, strong = np.array([140, 120, 110]), np.array([230, 60, 20])
        more = []
        for colour in (pale, strong):
            codes = np.broadcast_to((colour * 257).astype(np.uint16)[:, None, None], (3, 4, 4)).copy()
            after = finished(picture_of(codes), self.layer({"vibrance": 1}))[:, 0, 0]
            more.append(np.ptp(after) / np.ptp(codes[:, 0, 0] / 65535))
        assert more[0] > 1.5 * more[1] and more[1] < 1.15

    def test_without_saturation_everything_is_grey_of_its_own_lightness(self, picture):
        after = finished(picture, self.layer({"saturation": -1}))
        assert np.ptp(after, axis=0).max() < 2e-3


class TestHueSaturation(ColourSuite):
    kind = "hue-saturation"
    strong = {"hue": 70, "saturation": 0.3}

    def test_a_whole_turn_in_two_halves_gives_the_picture_back(self):
        pale = (colourful(60, 40).astype(np.float64) * 0.2 + 26000).astype(np.uint16)
        half = self.layer({"hue": 180})
        assert np.abs(finished(picture_of(pale), half, half) - finished(picture_of(pale))).max() < 1e-3

    def test_white_and_black_are_the_ends_of_lightness(self, picture):
        for lightness, end in ((1, 1), (-1, 0)):
            assert finished(picture, self.layer({"lightness": lightness})) == pytest.approx(end, abs=1e-3)


class TestFamily(TestHueSaturation):
    strong = {"hue": -40, "saturation": 0.5, "lightness": -0.2, "centre": 140, "width": 50, "border": 0.4}

    def test_what_lies_outside_the_family_keeps_every_bit(self):
        blue = np.broadcast_to(np.array([6000, 9000, 50000], np.uint16)[:, None, None], (3, 5, 5)).copy()
        assert np.array_equal(finished(picture_of(blue), self.layer(self.strong)), finished(picture_of(blue)))


class TestTint(Suite):
    kind = "hue-saturation"
    strong = {"tint": True, "hue": 60, "saturation": -0.6}
    neutral = None


class TestWhiteBalance(Suite):
    kind = "white-balance"
    strong = {"temperature": 9000, "tint": -0.3}

    @pytest.mark.parametrize(
        ("kelvin", "xy"),
        [(5003, (0.3457, 0.3585)), (5503, (0.3324, 0.3474)), (6504, (0.3127, 0.3290)), (7504, (0.2990, 0.3149))],
    )
    def test_daylight_is_that_of_the_tables(self, kelvin, xy):
        """D50, D55, D65 and D75 (CIE 15, table T.3)."""
        assert daylight(kelvin) == pytest.approx(xy, abs=2e-4)

    def test_adaptation_is_the_published_one(self):
        """Bradford from D50 to D65 (ICC.1, annex E, inverted)."""
        published = [[0.9555, -0.0231, 0.0633], [-0.0283, 1.0099, 0.0211], [0.0123, -0.0205, 1.3299]]
        assert adaptation((0.34567, 0.35850), (0.31271, 0.32902)) == pytest.approx(np.array(published), abs=6e-4)

    def test_a_bluer_light_named_makes_a_warmer_picture_and_a_greener_one_magenta(self):
        grey = picture_of(np.full((3, 4, 4), 30000, np.uint16))
        red, green, blue = finished(grey, self.layer({"temperature": 9000}))[:, 0, 0]
        assert red > green > blue
        red, green, blue = finished(grey, self.layer({"tint": 0.5}))[:, 0, 0]
        assert green < red and green < blue


class TestColourBalance(Suite):
    kind = "colour-balance"
    strong = {"shadows": {"blue": 0.8, "red": -0.3}, "midtones": {"green": 0.4}, "highlights": {"red": 1}}

    def test_held_tone_keeps_the_light_and_black_black(self, picture):
        before, after = finished(picture), finished(picture, self.layer(self.strong))
        assert np.abs(tone(after, SRGB) - tone(before, SRGB)).max() < 1e-4
        assert after[:, :8, :8].max() == 0

    def test_not_held_one_move_shifts_every_tone_alike(self, picture):
        """The three weights add up to 1."""
        all_red = {name: {"red": 0.5} for name in ("shadows", "midtones", "highlights")}
        moved = finished(picture, self.layer({**all_red, "hold_tone": False})) - finished(picture)
        assert moved[0] == pytest.approx(0.1, abs=1e-6) and np.abs(moved[1:]).max() == 0


class TestColourBalanceFree(TestColourBalance):
    strong = {**TestColourBalance.strong, "hold_tone": False}

    def test_held_tone_keeps_the_light_and_black_black(self):
        """Not here: tone is free."""


class TestSplitTone(Suite):
    kind = "split-tone"
    strong = {"shadow_saturation": 0.6, "highlight_saturation": 0.5, "balance": 0.3}

    def test_greys_get_the_two_hues_and_keep_their_lightness(self):
        ramp = finished(picture_of(grey_ramp()), self.layer({**self.strong, "balance": 0}))[:, 0]
        lab = COLOURS.oklab(ramp.T.astype(np.float64))
        hue = np.degrees(np.arctan2(lab[:, 2], lab[:, 1])) % 360
        assert hue[700] == pytest.approx(250, abs=1) and hue[3600] == pytest.approx(75, abs=1)
        assert np.abs(lab[:, 0] - COLOURS.oklab(grey_ramp()[:, 0].T / 65535)[:, 0])[1:].max() < 2e-4


class TestColourFamilies(Suite):
    kind = "colour-families"
    strong = {"centre": 140, "width": 70, "border": 0.5, "red": 0.8, "yellow": -0.4, "lightness": 0.2}


class TestDarks(TestColourFamilies):
    strong = {"by": "darks", "red": 0.5, "yellow": -1, "lightness": -0.3}


class TestMids(TestColourFamilies):
    strong = {"by": "mids", "yellow": 1}


class TestLights(TestColourFamilies):
    strong = {"by": "lights", "yellow": 1, "lightness": 0.4}


class TestNeutrals(TestColourFamilies):
    strong = {"by": "neutrals", "red": -0.6}


class TestBlackWhite(ToneSuite):
    kind = "black-white"
    strong = {"strength": 1, "red": 1, "yellow": -0.5, "green": 0.3, "cyan": 2, "blue": -2, "magenta": 0.7}

    def test_alike_for_every_hue_it_is_the_light_scaled(self, picture):
        names = ("red", "yellow", "green", "cyan", "blue", "magenta")
        after = finished(picture, self.layer({"strength": 1, **dict.fromkeys(names, 0)}))
        assert np.ptp(after, axis=0).max() < 1e-6
        assert np.abs(tone(after, SRGB) - tone(finished(picture), SRGB)).max() < 1e-4


class TestLight(ToneSuite):
    kind = "light"
    tolerance = BLURRED
    strong = {"highlights": -0.8, "shadows": 0.7, "whites": 0.3, "blacks": -0.4, "radius": 6}

    @pytest.mark.parametrize(
        "settings", [dict.fromkeys(("highlights", "shadows", "whites", "blacks"), way) for way in (-1, 1)]
    )
    def test_the_ends_of_all_settings_still_grow_with_tone(self, settings):
        at = np.linspace(0, 1, 10001)
        values = KINDS["light"].schema.parse(settings, "", [])
        assert (np.diff(moved(values)(at)) > 0).all()

    def test_shadows_and_highlights_hold_black_and_white(self):
        at = np.array([0.0, 1.0])
        values = KINDS["light"].schema.parse({"highlights": -1, "shadows": 1}, "", [])
        assert moved(values)(at) == pytest.approx(at, abs=1e-12)

    def test_no_halo_forms_along_an_edge_and_detail_stays(self):
        """Left dark, right bright, fine stripes on both: each side stays even up to the edge, and where the
        edge is out of the window the stripes are whole."""
        grey = np.where(np.arange(400) < 200, 0.2, 0.75) + 0.01 * (-1.0) ** np.arange(400)
        codes = np.broadcast_to((grey * 65535).astype(np.uint16), (3, 60, 400)).copy()
        settings = {"highlights": -0.8, "shadows": 0.8, "radius": 30}
        before, after = (
            tone(finished(picture_of(codes), *layers), SRGB)[30] for layers in ((), (self.layer(settings),))
        )
        smooth = (after[0::2] + after[1::2]) / 2
        dark, bright = smooth[20:98], smooth[102:180]
        assert np.ptp(dark) < 0.02 and np.ptp(bright) < 0.02
        stripes = np.abs(np.diff(after)) / np.abs(np.diff(before))
        assert (stripes[10:140] > 0.95).all() and (stripes[260:390] > 0.95).all()


class TestWideLight(TestLight):
    tolerance = REDUCED_BASE
    strong = {**TestLight.strong, "radius": 40}


class TestLocalContrast(ToneSuite):
    kind = "local-contrast"
    tolerance = BLURRED
    strong = {"amount": 0.8, "radius": 6}

    def test_at_minus_one_only_the_base_is_left(self):
        flat = np.full((3, 80, 80), 30000, np.float64) + np.random.default_rng(1).normal(0, 300, (80, 80))
        after = finished(picture_of(flat.astype(np.uint16)), self.layer({"amount": -1, "radius": 12}))
        assert after[1, 20:60, 20:60].std() < 0.15 * flat[1].std() / 65535


class TestWideLocalContrast(TestLocalContrast):
    tolerance = REDUCED_BASE
    strong = {"amount": 0.8, "radius": 40}


class TestSharpen(ToneSuite):
    kind = "sharpen"
    tolerance = BLURRED
    strong = {"amount": 1.5, "radius": 1.2, "noise": 0.01}

    def test_an_edge_moves_by_no_more_than_the_limit(self):
        codes = np.broadcast_to(np.where(np.arange(80) < 40, 12000, 50000).astype(np.uint16), (3, 20, 80)).copy()
        change = tone(finished(picture_of(codes), self.layer({"amount": 5, "limit": 0.03})), SRGB) - tone(
            finished(picture_of(codes)), SRGB
        )
        assert 0.02 < np.abs(change).max() < 0.03


class TestGrain(Suite):
    kind = "grain"
    steepest = 0
    strong = {"amount": 1.2, "size": 2.5, "seed": 7}

    def test_black_and_white_have_none_and_a_level_is_the_mean_of_the_full_size(self):
        codes = np.full((3, 64, 96), 30000, np.uint16)
        codes[:, :, :32], codes[:, :, 64:] = 0, 65535
        grain = finished(picture_of(codes), self.layer(self.strong)) - finished(picture_of(codes))
        assert np.abs(grain[:, :, :32]).max() == 0 and np.abs(grain[:, :, 64:]).max() < FLOAT32
        reduced = grain.reshape(3, 16, 4, 24, 4).mean((2, 4))
        theirs = finished(picture_of(codes), self.layer(self.strong), level=2) - finished(picture_of(codes), level=2)
        assert np.abs(reduced - theirs).max() < 1e-5 and np.abs(grain).max() > 0.05

    def test_it_is_white_and_another_seed_is_another_pattern(self):
        patch = Patch(Rect(0, 0, 256, 256), 0, 256, 256)
        one, other = grains(patch, 1.0, 1), grains(patch, 1.0, 2)
        assert one.mean() == pytest.approx(0, abs=0.02) and one.std() == pytest.approx(1, abs=0.02)
        for a, b in ((one[:, 1:], one[:, :-1]), (one[1:], one[:-1]), (one, other)):
            assert abs((a * b).mean()) < 0.02


class TestFill(Suite):
    kind = "fill"
    strong = {"colour": [0.9, 0.3, 0.1]}
    neutral = None


class TestLinearGradient(Suite):
    kind = "gradient"
    steepest = 0
    strong = {**LINE, "stops": STOPS}
    neutral = {**LINE, "stops": [{**stop, "alpha": 0} for stop in STOPS]}


class TestRadialGradient(TestLinearGradient):
    strong = {**LINE, "shape": "radial", "stops": STOPS}


class TestVignette(Suite):
    kind = "vignette"
    steepest = 0
    strong = {"stops": -2, "centre": [120, 100], "radii": [120, 70], "rotation": 20, "softness": 0.6}
    neutral = {"centre": [120, 100], "radii": [120, 70]}

    def test_the_inside_keeps_every_bit(self, picture):
        after = finished(picture, self.layer({**self.strong, "centre": [150, 140], "radii": [100, 100]}))
        assert np.array_equal(after[:, 130:150, 140:160], finished(picture)[:, 130:150, 140:160])


class TestNarrowBlur(Suite):
    kind = "blur"
    strong = {"sigma": 3}
    neutral = {"sigma": 0}
    tolerance = BLURRED


class TestWideBlur(TestNarrowBlur):
    strong = {"sigma": 25}


class TestGrey(Suite):
    kind = "grey"
    steepest = 0
    extra = {"strokes": [STROKE, {**STROKE, "to": 0, "points": [[200, 30], [90, 240]]}]}
    neutral = None

    @pytest.mark.parametrize("mode", ["soft-light", "overlay", "hard-light"])
    def test_unpainted_it_keeps_every_bit_also_beyond_the_range(self, picture, mode):
        lifted = {"kind": "exposure", "settings": {"stops": 2}}
        for strokes in ([], [{**STROKE, "to": 0.5}]):
            layer = {"kind": "grey", "blend": mode, "strokes": strokes}
            assert np.array_equal(finished(picture, lifted), finished(picture, lifted, layer))

    def test_painted_lighter_lightens_and_darker_darkens(self, picture):
        for to, sign in ((1, 1), (0, -1)):
            layer = {"kind": "grey", "strokes": [{**STROKE, "to": to}]}
            change = finished(picture, layer) - finished(picture)
            assert (change * sign >= 0).all() and (change * sign).max() > 0.02

    def test_reach_confines_it_to_a_range_of_tone(self, picture):
        layer = {**self.layer({"reach": {"low": 0.6, "soft_low": 0.05}}), "strokes": [STROKE]}
        change = np.abs(finished(picture, layer) - finished(picture)).max(0)
        dark = finished(picture).max(0) < 0.35
        assert change[dark].max() == 0 and change.max() > 0.01

    def test_holding_colour_keeps_the_proportions_of_light(self):
        codes = np.full((3, 40, 40), 0, np.uint16)
        codes[:] = np.array([30000, 22000, 15000])[:, None, None]
        strokes = [{**STROKE, "size": 60, "opacity": 0.3, "points": [[20, 20]]}]
        layer = {"kind": "grey", "settings": {"hold_colour": True}, "strokes": strokes}
        light = [
            [lin(float(v)) for v in px[:, 20, 20]]
            for px in (finished(picture_of(codes)), finished(picture_of(codes), layer))
        ]
        before, after = light
        assert after[0] > before[0] * 1.02
        assert np.array(after) / after[0] == pytest.approx(np.array(before) / before[0], rel=1e-4)

    @pytest.mark.parametrize("grey", [0.15, 0.3, 0.7, 0.85])
    def test_holding_chroma_keeps_hue_and_chroma_as_far_as_there_are_such_colours(self, grey):
        """On a chart of real colours, against the published formulas of Oklab, and of CIELAB as another judge."""
        hues, chroma, lightness = np.meshgrid(
            np.arange(0, 360, 20), [0.04, 0.08, 0.12], [0.4, 0.55, 0.7], indexing="ij"
        )
        angle = np.deg2rad(hues.ravel())
        wanted = np.stack([lightness.ravel(), chroma.ravel() * np.cos(angle), chroma.ravel() * np.sin(angle)], -1)
        chart = COLOURS.fitted(wanted)
        chart = chart[np.abs(COLOURS.oklab(chart) - wanted).max(-1) < 1e-6]
        assert len(chart) > 100
        held = {
            holds: self.burnt(chart, grey, {"hold_colour": True, "holds": holds}) for holds in ("saturation", "chroma")
        }
        before, after = COLOURS.oklab(chart), COLOURS.oklab(held["chroma"])
        c0, c1 = np.hypot(*before.T[1:]), np.hypot(*after.T[1:])
        turned = np.abs(before[:, 1] * after[:, 2] - before[:, 2] * after[:, 1]) / (c0 * c1)
        inside = (held["chroma"] > 1e-4).all(-1) & (held["chroma"] < 1 - 1e-4).all(-1)
        assert turned[inside].max() < 0.004 and turned.max() < 0.16
        assert inside.mean() > 0.6 and c1[inside] == pytest.approx(c0[inside], rel=2e-3)
        assert (c1 <= c0 * 1.002).all()
        lost = {
            name: np.abs(
                np.hypot(*skimage.color.rgb2lab(c)[inside].T[1:])
                / np.hypot(*skimage.color.rgb2lab(chart)[inside].T[1:])
                - 1
            ).mean()
            for name, c in held.items()
        }
        assert lost["chroma"] < 0.5 * lost["saturation"], lost

    def burnt(self, chart, grey, settings):
        px = np.ascontiguousarray(chart.T[:, None].astype(np.float32))
        layer = parse_layer({"kind": "grey", "settings": settings}, VOCABULARY, "layer")
        painted = np.full(px.shape[1:], grey, np.float32)
        GREY.apply(layer.settings, "soft-light", px, painted, np.ones_like(painted), SRGB)
        return px[:, 0].T.astype(float)

    @pytest.mark.parametrize("tiny", [3e-7, 0.0])
    def test_the_rounding_left_of_black_is_given_no_colour(self, tiny):
        black = np.zeros((3, 1, 1), np.float32)
        black[0] = tiny
        GREY.apply(parse_layer({"kind": "grey", "settings": {"hold_colour": True}}, VOCABULARY, "layer").settings,
                   "lighten", black, np.full((1, 1), 0.6, np.float32), np.ones((1, 1), np.float32), SRGB)  # fmt: skip
        assert np.ptp(black) < 1e-6 and black.max() == pytest.approx(0.6, abs=1e-5)

    def test_even_strokes_blur_the_painting_not_the_picture(self, picture):
        hard = [{**STROKE, "hardness": 1, "opacity": 1, "flow": 1}]
        even = [
            *hard,
            {"even": 6, "size": 200, "hardness": 0, "opacity": 1, "flow": 1, "points": [[40, 60], [220, 180]]},
        ]
        flat = Pyramid(np.full((3, 280, 300), 30000, np.uint16))
        over = picture_of(flat.full)
        steps = [
            np.abs(np.diff(finished(over, {"kind": "grey", "strokes": s})[0, 100:140])).max() for s in (hard, even)
        ]
        assert steps[1] < steps[0] * 0.6


class TestHeldGrey(TestGrey):
    tied = ("low", "high")
    strong = {"hold_colour": True, "reach": {"low": 0.1, "soft_low": 0.1, "high": 0.8, "soft_high": 0.2}}


def test_every_kind_has_its_suite():
    def below(suite):
        return {suite.kind} | {kind for child in suite.__subclasses__() for kind in below(child)}

    assert below(Suite) - {""} == set(KINDS) - {"picture", "group"}
