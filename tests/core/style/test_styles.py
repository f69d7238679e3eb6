"""LUTs as styles, the film-like pair, looks as files, cameras compared, less of a style where it breaks."""

import json
from dataclasses import asdict, replace

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from morphe.core.advise.whole.last_fixes import last_fixes
from morphe.core.advise.whole.strain import strain_of
from morphe.core.errors import ColourError, LutError
from morphe.core.grade import recipe
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.steps import (
    Balance,
    BlackPoint,
    Contrast,
    Exposure,
    Film,
    Glow,
    Grain,
    Lut,
    Saturation,
    WhitePoint,
)
from morphe.core.grade.steps.lut import FILM_LOG, LOG, ORDINARY
from morphe.core.grade.table import SHELF, ConversionTable
from morphe.core.match.cameras import Apart, apart, lasting
from morphe.core.measure.banding import BANDS
from morphe.core.measure.file_strength import FileStrength
from morphe.core.pipeline.cube import bake_grade
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.style.look_file import LookFile, look_from_text, look_text
from morphe.core.style.lut_role import role_of
from morphe.core.style.pairing import paired
from morphe.core.style.strength import style_layer
from tests.core.style.test_lut_role import made_up
from tests.strategies import stacked_grades

RAMP = np.linspace(0.02, 0.98, 97, dtype=np.float32)[:, None].repeat(3, axis=1)


@pytest.fixture(autouse=True)
def shelf(tmp_path, monkeypatch):
    monkeypatch.setattr(SHELF, "folder", tmp_path / "tables")
    return SHELF


def kept(grade, size=33):
    """A grade as a LUT on the shelf, by its digest."""
    cube = bake_grade(grade, size=size, domain=(0.0, 1.0)).table
    return SHELF.keep(ConversionTable(low=np.zeros(3, np.float32), high=np.ones(3, np.float32), cube=cube))


def test_given_generated_luts_when_put_where_they_do_not_belong_then_all_are_refused_with_an_offer():
    rng = np.random.default_rng(8)
    for _ in range(40):
        for role, filmed, convert in (
            (LOG, Kind.STANDARD, Convert()), (ORDINARY, Kind.LOG, Convert()),
        ):  # fmt: skip
            judged = role_of(made_up(role, rng)).role
            found = paired("Harbour", "", judged, filmed=filmed, convert=convert)
            assert found.refusal.startswith("“Harbour” expects") and found.offer


@pytest.mark.parametrize(
    ("role", "filmed", "convert"),
    [
        (ORDINARY, Kind.STANDARD, Convert()), (ORDINARY, Kind.LOG, Convert(profile="log-mild")),
        (LOG, Kind.LOG, Convert(profile="log-mild")), (FILM_LOG, Kind.STANDARD, Convert()),
    ],
)  # fmt: skip
def test_given_a_lut_where_it_belongs_when_paired_then_it_is_put_on(role, filmed, convert):
    found = paired("Harbour", "", role, filmed=filmed, convert=convert)

    assert found.refusal == "" and len(found.steps) == 1


def test_given_a_log_lut_when_put_on_a_clip_of_its_log_then_it_is_the_conversion_itself():
    digest = kept(Grade.of(Convert(profile="log-mild"), Saturation(amount=15)), size=65)
    convert = Convert(profile="log-mild")
    (step,) = paired("Harbour", digest, LOG, filmed=Kind.LOG, convert=convert).steps
    light = np.linspace(0.01, 0.9, 60, dtype=np.float32)[:, None] * np.array([1, 0.8, 0.6], np.float32)
    filmed = PROFILES.get("log-mild").encode(light).astype(np.float32)

    through = evaluate(Grade.of(convert).with_layer(style_layer((step,), 1.0)), filmed)

    wanted = evaluate(Grade.of(convert, Saturation(amount=15)), filmed)
    assert np.abs(np.clip(through, 0, 1) - np.clip(wanted, 0, 1)).mean() < 0.004


def test_given_half_a_log_lut_when_mixed_then_it_lies_between_two_pictures_of_ordinary_video():
    digest = kept(Grade.of(Convert(profile="log-mild")))
    (step,) = paired("Harbour", digest, LOG, filmed=Kind.LOG, convert=Convert(profile="log-mild")).steps
    base = Grade.of(Convert(profile="log-mild"))
    filmed = PROFILES.get("log-mild").encode(np.full((1, 3), 0.18, np.float32)).astype(np.float32)

    none, half, full = (evaluate(base.with_layer(style_layer((step,), s)), filmed) for s in (0.0, 0.5, 1.0))

    assert half == pytest.approx((none + full) / 2, abs=1e-4)
    assert half[0, 1] == pytest.approx(0.409, abs=0.01)  # grey is grey, and no log


def test_given_a_lut_that_changes_nothing_when_worn_then_the_picture_stays_beyond_its_ends_too():
    wide = np.linspace(-0.05, 1.06, 60, dtype=np.float32)[:, None].repeat(3, axis=1)

    out = evaluate(Grade().with_layer(style_layer((Lut(table=kept(Grade()), name="Same"),), 1.0)), wide)

    assert out == pytest.approx(wide, abs=2e-3)


@pytest.mark.parametrize("contrast", [1.3, 1.5, 2.0])
def test_given_the_film_like_pair_when_dialled_then_ends_and_grey_stay_and_less_is_never_flat(contrast):
    def worn(amount):
        return evaluate(Grade.of(Film(amount=amount, contrast=contrast)), RAMP)[:, 1]

    full, half = worn(100), worn(50)
    assert (np.diff(full) > 0).all() and full[-1] == pytest.approx(0.98, abs=0.02)
    assert np.interp(0.409, RAMP[:, 1], full) == pytest.approx(0.409, abs=0.012)
    assert half == pytest.approx((full + RAMP[:, 1]) / 2, abs=1e-3)


def test_given_warmth_of_a_print_when_turned_then_greys_go_that_way():
    cool, warm = (evaluate(Grade.of(Film(amount=100, warmth=w)), RAMP)[40] for w in (-100, 100))

    assert warm[0] > warm[2] and cool[2] > cool[0]


@pytest.mark.parametrize(
    "wrong", [{"role": "dream"}, {"curve": "none"}, {"table": "ab"}, {"numbers": (1.0,)}]
)
def test_given_a_lut_that_cannot_be_when_made_then_it_is_refused(wrong):
    with pytest.raises(ColourError):
        Lut(**wrong)


# --- looks as files -------------------------------------------------------------------------------------


def a_look(**changed):
    layers = (
        style_layer(
            (Lut(table=kept(Grade.of(Saturation(amount=20))), name="Harbour"),), 0.6, "Harbour evening"
        ),
        Layer(id="finish", scope=Scope.FINISH, steps=(Glow(amount=12),)),
    )
    return LookFile(**{"name": "Harbour evening", "words": "For talks.", "layers": layers, **changed})


def test_given_a_look_when_written_and_read_elsewhere_then_it_does_the_same(tmp_path, monkeypatch):
    look = a_look()
    text = look_text(look)
    worn = evaluate(Grade().with_layer(look.layers[0]), RAMP)
    monkeypatch.setattr(SHELF, "folder", tmp_path / "elsewhere")

    found = look_from_text(text)

    assert (found.name, found.words, found.layers) == (look.name, look.words, look.layers)
    assert evaluate(Grade().with_layer(found.layers[0]), RAMP) == pytest.approx(worn, abs=1e-6)


@pytest.mark.parametrize(
    "broken",
    [
        lambda d: {**d, "format": "other"}, lambda d: {**d, "schema": 99}, lambda d: {**d, "layers": []},
        lambda d: {**d, "layers": [{"id": "style"}]}, lambda d: {**d, "name": " "},
        lambda d: {**d, "tables": {"0" * 64: next(iter(d["tables"].values()))}},
        lambda d: {**d, "tables": {k: "no base 64" for k in d["tables"]}},
        lambda d: {**d, "tables": {}, "layers": [{**d["layers"][0], "scope": "clip"}]},
        lambda d: [d],
    ],
)  # fmt: skip
def test_given_a_look_that_is_broken_when_read_then_it_is_refused_in_a_sentence(broken):
    data = broken(json.loads(look_text(a_look())))

    with pytest.raises(LutError) as refused:
        look_from_text(json.dumps(data))
    assert str(refused.value).endswith((".", "first.", "again."))


def test_given_a_picture_that_is_none_when_a_look_is_read_then_it_is_left_out():
    data = json.loads(look_text(a_look()))

    found = look_from_text(json.dumps({**data, "picture": "AAAA"}))

    assert found.picture == b""


# --- after the style, and two cameras -------------------------------------------------------------------


def test_given_a_style_that_crushes_when_all_is_read_again_then_less_of_it_is_proposed():
    picture = np.random.default_rng(3).uniform(0.06, 0.9, (40, 60, 3)).astype(np.float32)
    style = style_layer((BlackPoint(lower=15), WhitePoint(raise_by=12)), 1.0, "Hard noon")
    grade = Grade.of(Exposure(stops=0.05)).with_layer(style)

    found = last_fixes([picture], [0.0], grade)

    assert found[0].key == "style" and "Hard noon breaks" in found[0].sentence
    assert "keeps all within" in found[0].action and 0 < found[0].strength < 1
    eased = grade.with_layer(replace(style, strength=found[0].strength))
    assert last_fixes([picture], [0.0], eased) == ()


def test_given_a_style_that_breaks_nothing_when_all_is_read_again_then_it_is_let_be():
    picture = np.random.default_rng(3).uniform(0.1, 0.8, (40, 60, 3)).astype(np.float32)

    assert last_fixes([picture], [0.0], Grade().with_layer(style_layer((Saturation(amount=5),), 1.0))) == ()


def test_given_matches_of_two_cameras_when_they_agree_then_the_difference_lasts_and_is_said():
    found = lasting([Apart(mired=8, stops=0.05), Apart(mired=10, stops=0.5), Apart(mired=9, stops=-0.4)])

    assert found is not None and found.mired == 9 and found.stops == 0
    assert found.sentence("Cuttle", "Fern") == "Cuttle sits 9 mired cooler than Fern (3 clips)."


@pytest.mark.parametrize("apart", [[(9, 0)], [(9, 0), (-20, 0), (40, 0)], [(1, 0.05), (2, 0.1)]])
def test_given_matches_that_are_few_or_disagree_when_compared_then_nothing_is_learnt(apart):
    assert lasting([Apart(mired=m, stops=s) for m, s in apart]) is None


def test_given_two_grades_when_compared_then_all_layers_of_the_whole_frame_count():
    clip = Grade.of(Balance(warmth=20), Exposure(stops=0.4)).with_layer(
        Layer(id="match", steps=(Balance(warmth=-6),))
    )

    found = apart(clip, Grade.of(Balance(warmth=5)))

    assert (found.mired, found.stops) == pytest.approx((9, 0.4))


def test_given_steps_of_style_and_finish_when_kept_in_a_recipe_then_they_are_read_back():
    grade = Grade().with_layer(a_look().layers[0]).with_layer(a_look().layers[1])

    assert recipe.from_text(recipe.to_text(grade)) == grade


@pytest.mark.parametrize(("noise", "offered"), [(0.1, True), (3.0, False)])
def test_given_steps_that_show_when_read_again_then_grain_is_offered_and_noise_needs_none(noise, offered):
    file = FileStrength(bit_depth=8, noise=noise, blocks=1.0, tones=np.full(BANDS, 1 / BANDS))
    picture = np.random.default_rng(4).uniform(0.3, 0.6, (40, 60, 3)).astype(np.float32)
    grade = Grade.of(Contrast(amount=60), Exposure(stops=1.0))

    fixes = {f.key: f for f in last_fixes([picture], [0.0], grade, strain=lambda g: strain_of(file, g))}

    assert ("grain" in fixes) is offered
    if offered:
        fix = fixes["grain"]
        laid = grade.with_step(Grain(**fix.numbers), fix.layer)
        again = last_fixes([picture], [0.0], laid, strain=lambda g: strain_of(file, g))
        assert (fix.layer, fix.step) == ("finish", "grain")
        assert "grain" not in {f.key for f in again}


@given(grade=stacked_grades(), noise=st.floats(0, 4))
@example(grade=Grade.of(Convert(profile="log-lifted")), noise=2.0)
def test_given_any_grade_when_its_strain_is_told_then_it_can_be_sent(grade, noise):
    for tones in (np.full(BANDS, 1 / BANDS), np.zeros(BANDS)):  # without tones only hues strain
        file = FileStrength(bit_depth=8, noise=noise, blocks=1.0, tones=tones)

        json.dumps(asdict(strain_of(file, grade, with_cure=False)))
