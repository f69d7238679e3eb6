"""What lens, film and delivery add, as the page paints it while playing, against the reference."""

import base64
import json
from pathlib import Path

import numpy as np
import pytest

from morphe.core.advise.counted import edges_about
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure, Grain
from morphe.core.measure.surround import Surround
from morphe.core.pipeline.playing import playing
from morphe.core.pipeline.reference import evaluate
from tests.browser.driving import pixels
from tests.core.pipeline.test_finish import EFFECTS, finished, grey, lit_picture

SCRIPTS = Path(__file__).parents[2] / "src/morphe/web/bench/static/bench"
MOMENT = 1.0
PAINT = """
({ head, data, picture, width, height, moment }) => {
  const bytes = (text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
  const numbers = bytes(data);
  const line = new TextEncoder().encode(JSON.stringify(head));
  const start = line.length + (line.length % 2 ? 1 : 2);
  const all = new Uint8Array(start + numbers.length).fill(32);
  all.set(line); all[start - 1] = 10; all.set(numbers, start);
  const canvas = document.createElement("canvas");
  const painter = onGraphics(canvas, () => {});
  painter.take(readPasses(all.buffer));
  painter.draw(new ImageData(new Uint8ClampedArray(bytes(picture)), width, height), width, height, moment);
  return canvas.toDataURL("image/png");
}
"""


@pytest.fixture(scope="module")
def painter(browser):
    """A blank page that knows the scripts which paint while playing."""
    page = browser.new_page()
    for name in ("shaders.js", "passes.js", "painter.js"):
        lines = (SCRIPTS / name).read_text(encoding="utf-8").splitlines()
        text = "\n".join(line.removeprefix("export ") for line in lines if not line.startswith("import "))
        page.add_script_tag(content=text)
    yield page
    page.close()


def played(painter, grade, encoded):
    """A picture (H, W, 3) of whole codes as it is drawn while playing."""
    ready = playing(grade, 2.0)
    height, width = encoded.shape[:2]
    rgba = np.concatenate([encoded * 255, np.full((height, width, 1), 255)], axis=-1).round().astype(np.uint8)
    asked = {
        "head": {"passes": ready.passes}, "data": base64.b64encode(ready.data).decode(), "moment": MOMENT,
        "picture": base64.b64encode(rgba.tobytes()).decode(), "width": width, "height": height,
    }  # fmt: skip
    return pixels(painter.evaluate(f"(asked) => ({PAINT})(asked)", json.loads(json.dumps(asked)))) / 255


def whole(encoded):
    return np.rint(encoded * 255).astype(np.float32) / 255


@pytest.mark.parametrize("step", EFFECTS.values(), ids=EFFECTS)
def test_given_an_effect_when_played_then_it_is_the_likeness_of_the_still(painter, step):
    encoded = whole(lit_picture().repeat(3, axis=0).repeat(3, axis=1))

    found = played(painter, finished(step), encoded)

    wanted = np.clip(evaluate(finished(step), encoded, time_s=MOMENT), 0, 1)
    plain = np.clip(evaluate(finished(), encoded, time_s=MOMENT), 0, 1)
    assert np.abs(found - wanted).mean() < 1.5 / 255
    assert np.abs(found - wanted).mean() < 0.35 * np.abs(plain - wanted).mean() + 0.5 / 255


def test_given_black_bars_when_played_under_a_bright_grade_then_they_stay_black(painter):
    encoded = whole(lit_picture().repeat(3, axis=0).repeat(3, axis=1) * 0.5)
    height, width = encoded.shape[:2]
    top, left = height // 8, width // 6
    encoded[:top], encoded[-top:], encoded[:, :left], encoded[:, -left:] = 0.03, 0.03, 0.03, 0.03
    bars = Surround(
        kind="black", top=top / height, bottom=top / height, left=left / width, right=left / width
    )

    found = played(painter, Grade.of(edges_about(bars), Exposure(stops=1.5)), encoded)

    inside = found[top + 2 : -top - 2, left + 2 : -left - 2]
    around = np.ones((height, width), bool)
    around[top - 1 : 1 - top, left - 1 : 1 - left] = False
    assert found[around].max() < 1.5 / 255
    assert inside.mean() > encoded[top:-top, left:-left].mean() + 0.05


def test_given_grain_when_played_then_it_has_the_spread_of_the_file(painter):
    encoded = whole(grey(0.5, 216, 384))

    found, wanted = (
        played(painter, finished(Grain(amount=3)), encoded),
        evaluate(finished(Grain(amount=3)), encoded),
    )

    assert found.std() == pytest.approx(wanted.std(), rel=0.1)
    assert found.mean() == pytest.approx(wanted.mean(), abs=1 / 255)
