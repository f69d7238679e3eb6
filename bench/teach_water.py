"""Teach what `morphe.core.advise` knows of water, and say how it fares on photographs held back.

`python -m bench.teach_water` takes the lessons of `python -m bench.water_lessons`. What is restored is taught
by the restored picture itself: `advise.water_estimate` answers with numbers of a restoration, and they are
bettered by how near the picture comes to what is wanted (CIE 94). It needs jax and optax
(`pip install -r bench/requirements-teach.txt`), which nothing else does. `advise.wetness` is taught too;
name one of `water wet` to teach only that.
"""

from __future__ import annotations

import sys
from collections.abc import Mapping
from itertools import pairwise
from pathlib import Path
from typing import Any
from warnings import catch_warnings, simplefilter

import jax
import jax.numpy as jnp
import numpy as np
import optax
from sklearn.exceptions import ConvergenceWarning
from sklearn.neural_network import MLPClassifier

from bench.waters import TYPES
from morphe.core.advise.networks import FARTHEST, Networks
from morphe.core.advise.water import estimate as water_estimate
from morphe.core.advise.water import wetness
from morphe.core.advise.water.estimate import ANSWERS, DARK_PCT, GREY, LEAST, NARROWEST
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.water.hints import HINT_TRAITS, WaterHints

LESSONS = Path(".cache/lessons")
LAYERS, NETWORKS, ROUNDS, BATCH, PIXELS = (96, 48), 2, 22, 128, 400
BLUR, RATE, DECAY = 0.15, 2e-3, 1e-3
TOLD = 0.6  # how often each hint is given, where any is
LUMA = jnp.array(LUMINANCE_709)
TO_XYZ = jnp.array([[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.072175],
                    [0.0193339, 0.119192, 0.9503041]]) / jnp.array([[0.95047], [1.0], [1.08883]])  # fmt: skip
Lessons = dict[str, np.ndarray]


def read(name: str) -> Lessons:
    with np.load(LESSONS / f"water-{name}.npz") as file:
        found = {key: file[key] for key in file.files}
    light = found["light"].astype(np.float32).reshape(len(found["light"]), -1, 3)
    found |= {
        "light": light, "truth": found["truth"].astype(np.float32).reshape(light.shape),
        "mean": np.maximum(light.mean(axis=1), 1e-4),
        "dark": np.maximum(np.percentile(light, DARK_PCT, axis=1), 0).astype(np.float32),
    }  # fmt: skip
    return found


def joined(one: Lessons, other: Lessons) -> Lessons:
    """Two sets of lessons as one."""
    return {name: np.concatenate([one[name], other[name]]) for name in one}


def _encoded(light: Any) -> Any:
    return jnp.where(light < 0.018, 4.5 * light, 1.099 * jnp.maximum(light, 1e-6) ** 0.45 - 0.099)


def _lab(encoded: Any) -> Any:
    xyz = (jnp.clip(encoded, 0, 1) ** 2.4) @ TO_XYZ.T
    f = jnp.where(xyz > 0.008856, jnp.cbrt(jnp.maximum(xyz, 1e-4)), 7.787 * xyz + 16 / 116)
    return jnp.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], -1)


def _apart(one: Any, other: Any) -> Any:
    """CIE 94 of two pictures in CIELAB."""
    chroma = [jnp.sqrt(p[..., 1] ** 2 + p[..., 2] ** 2 + 1e-4) for p in (one, other)]
    by_chroma = chroma[0] - chroma[1]
    by_hue = (one[..., 1] - other[..., 1]) ** 2 + (one[..., 2] - other[..., 2]) ** 2 - by_chroma**2
    mean = jnp.sqrt(chroma[0] * chroma[1])
    return jnp.sqrt(
        (one[..., 0] - other[..., 0]) ** 2 + (by_chroma / (1 + 0.045 * mean)) ** 2
        + jnp.maximum(by_hue, 0) / (1 + 0.015 * mean) ** 2 + 1e-2
    )  # fmt: skip


def _restored(light: Any, said: Any, mean: Any, dark: Any) -> Any:
    """What `Restore` makes of light (n, pixels, 3), encoded; as `water_estimate` reads the answers."""
    veil = jax.nn.sigmoid(said[:, 3:6]) * dark
    gains = jnp.exp2(jnp.clip(said[:, :3], -9, 9)) * GREY / jnp.maximum(mean - veil, LEAST)
    near = (light - veil[:, None]) * gains[:, None]
    luma = (near @ LUMA)[..., None]
    near = luma + jnp.exp(said[:, 9])[:, None, None] * (near - luma)
    stops, at = jnp.log2(jnp.maximum(light, 0) + LEAST), jnp.log2(mean + LEAST)
    spread = NARROWEST + jax.nn.softplus(said[:, 10])
    away = [
        stops[..., c] - stops[..., 1] - (at[:, c] - at[:, 1] + said[:, 6 + n])[:, None]
        for n, c in enumerate((0, 2))
    ]
    like = jnp.exp(-0.5 * (away[0] ** 2 + away[1] ** 2) / spread[:, None] ** 2)
    bright = jnp.maximum(near @ LUMA, 0) / jnp.maximum(light @ LUMA, LEAST)
    kept = (jax.nn.sigmoid(said[:, 8])[:, None] * like)[..., None]
    return _encoded(jnp.maximum(near + kept * (light * bright[..., None] - near), 0))


def _answers(layers: Any, inputs: Any) -> Any:
    for number, (weights, offsets) in enumerate(layers):
        inputs = jax.nn.relu(inputs) if number else inputs
        inputs = inputs @ weights + offsets
    return inputs


def _loss(layers: Any, inputs: Any, light: Any, truth: Any, mean: Any, dark: Any) -> Any:
    shown = _restored(light, _answers(layers, inputs), mean, dark)
    return _apart(_lab(shown), _lab(truth)).mean()


def _hinted(facts: np.ndarray, generator: np.random.Generator, told: float) -> np.ndarray:
    """What a person may have said of every lesson: everything, nothing, or some of it."""
    found = np.zeros((len(facts), HINT_TRAITS))
    for row, (at, depth, distance, lamp, filtered) in enumerate(facts):
        if told < 1 and generator.random() < 0.5:
            continue
        known = generator.random(4) < (1 if told == 1 else TOLD)
        found[row] = WaterHints(
            depth_m=float(depth) if known[0] else None, distance_m=float(distance) if known[1] else None,
            water=TYPES[int(at)] if known[2] else "", lamp=bool(lamp) if known[3] else None,
            filter=("red" if filtered else "none") if known[3] else "",
        ).as_traits()  # fmt: skip
    return found


def _start(key: Any, sizes: list[int]) -> list[tuple[Any, Any]]:
    layers = []
    for number, (inside, out) in enumerate(pairwise(sizes)):
        key, own = jax.random.split(key)
        scale = np.sqrt(2 / inside) if number < len(sizes) - 2 else 0.01
        layers.append((scale * jax.random.normal(own, (inside, out)), jnp.zeros(out)))
    return layers


def _scaling(lessons: Lessons) -> tuple[np.ndarray, np.ndarray]:
    hints = _hinted(lessons["hints"], np.random.default_rng(0), 1.0)
    mean = np.concatenate([lessons["look"].mean(axis=0), np.zeros(HINT_TRAITS)])
    return mean, np.concatenate([lessons["look"].std(axis=0) + 1e-3, np.abs(hints).mean(axis=0) + 0.5])


def _inputs(lessons: Lessons, hints: np.ndarray, scaling: tuple[np.ndarray, np.ndarray]) -> np.ndarray:
    raw = np.concatenate([lessons["look"], hints], axis=1)
    return np.clip((raw - scaling[0]) / scaling[1], -FARTHEST, FARTHEST)


def _taught(lessons: Lessons, scaling: tuple[np.ndarray, np.ndarray], seed: int) -> Any:
    generator, count = np.random.default_rng(seed), len(lessons["look"])
    layers: Any = _start(jax.random.PRNGKey(seed), [len(scaling[0]), *LAYERS, ANSWERS])
    turns = count // BATCH
    rule = optax.chain(
        optax.clip_by_global_norm(1.0),
        optax.adamw(optax.cosine_decay_schedule(RATE, ROUNDS * turns), weight_decay=DECAY),
    )
    state = rule.init(layers)

    @jax.jit
    def follow(layers: Any, state: Any, *batch: Any) -> Any:
        loss, pull = jax.value_and_grad(_loss)(layers, *batch)
        steps, state = rule.update(pull, state, layers)
        return optax.apply_updates(layers, steps), state, loss

    for turn in range(ROUNDS):
        order, total = generator.permutation(count), 0.0
        inputs = _inputs(lessons, _hinted(lessons["hints"], generator, TOLD), scaling)
        inputs[:, :-HINT_TRAITS] += generator.normal(0, BLUR, inputs[:, :-HINT_TRAITS].shape)
        for at in range(turns):
            some = order[at * BATCH : (at + 1) * BATCH]
            pixels = generator.choice(lessons["light"].shape[1], PIXELS, replace=False)
            layers, state, loss = follow(
                layers, state, inputs[some].astype(np.float32), lessons["light"][some][:, pixels],
                lessons["truth"][some][:, pixels], lessons["mean"][some].astype(np.float32),
                lessons["dark"][some],
            )  # fmt: skip
            total += float(loss)
        print(f"\r  network {seed}, round {turn + 1}: {total / turns:.2f}", end="", flush=True)
    print()
    return layers


def _held(
    networks: list[Any], lessons: Lessons, scaling: tuple[np.ndarray, np.ndarray], told: float
) -> np.ndarray:
    hints = _hinted(lessons["hints"], np.random.default_rng(1), told) if told else np.zeros(
        (len(lessons["hints"]), HINT_TRAITS)
    )  # fmt: skip
    inputs = _inputs(lessons, hints, scaling).astype(np.float32)
    found = []
    for at in range(0, len(inputs), 256):
        some = slice(at, at + 256)
        said = sum(_answers(n, inputs[some]) for n in networks) / len(networks)
        shown = _restored(lessons["light"][some], said, lessons["mean"][some], lessons["dark"][some])
        found.append(np.asarray(_apart(_lab(shown), _lab(lessons["truth"][some])).mean(axis=1)))
    return np.concatenate(found)


def teach_water(lessons: Lessons, held: Lessons) -> None:
    scaling = _scaling(lessons)
    networks = [_taught(lessons, scaling, seed) for seed in range(NETWORKS)]
    arrays: dict[str, np.ndarray] = {"mean": scaling[0], "spread": scaling[1]}
    for layer in range(len(LAYERS) + 1):
        arrays[f"water_weights{layer}"] = np.stack([np.asarray(n[layer][0]) for n in networks])
        arrays[f"water_offsets{layer}"] = np.stack([np.asarray(n[layer][1]) for n in networks])
    save(water_estimate.TAUGHT, arrays)
    for told, words in ((0.0, "nothing told"), (0.99, "some told"), (1.0, "all told")):
        print(f"  {words}: CIE 94 of {np.median(_held(networks, held, scaling, told)):.2f} in the median")


WET_LAYERS, WET_ROUNDS = (96, 48), 30


def _looks(lessons: Lessons, wet: bool) -> np.ndarray:
    names = ("raw", "codes") if wet else ("dry", "dry_codes")
    return np.concatenate([lessons[name] for name in names], axis=1)


def _classifiers(scaled: np.ndarray, classes: np.ndarray) -> list[MLPClassifier]:
    found = []
    for seed in range(NETWORKS):
        blurred = scaled + np.random.default_rng(seed).normal(0, 0.2, scaled.shape)
        network = MLPClassifier(
            hidden_layer_sizes=WET_LAYERS, alpha=1.0, batch_size=256, max_iter=WET_ROUNDS, random_state=seed
        )
        with catch_warnings():
            simplefilter("ignore", ConvergenceWarning)  # they are ended early on purpose
            found.append(network.fit(blurred, classes))
    return found


def teach_wet(lessons: Lessons, held: Lessons) -> None:
    traits = np.concatenate([_looks(lessons, True), _looks(lessons, False)])
    wet = np.repeat([1, 0], len(traits) // 2)
    arrays = {"mean": traits.mean(axis=0), "spread": traits.std(axis=0) + 1e-3}
    scaled = np.clip((traits - arrays["mean"]) / arrays["spread"], -FARTHEST, FARTHEST)
    networks = _classifiers(scaled, wet)
    for layer in range(len(WET_LAYERS) + 1):
        arrays[f"wet_weights{layer}"] = np.stack([n.coefs_[layer] for n in networks])
        arrays[f"wet_offsets{layer}"] = np.stack([n.intercepts_[layer] for n in networks])
    own = np.clip((_looks(lessons, True) - arrays["mean"]) / arrays["spread"], -FARTHEST, FARTHEST)
    kinds = _classifiers(own, lessons["kind"].astype(int))
    for layer in range(len(WET_LAYERS) + 1):
        arrays[f"kind_weights{layer}"] = np.stack([n.coefs_[layer] for n in kinds])
        arrays[f"kind_offsets{layer}"] = np.stack([n.intercepts_[layer] for n in kinds])
    save(wetness.TAUGHT, arrays)
    apart = np.clip((_looks(held, True) - arrays["mean"]) / arrays["spread"], -FARTHEST, FARTHEST)
    right = sum(n.predict_proba(apart) for n in kinds).argmax(axis=1) == held["kind"]
    print(f"  kind under water: {right.mean():.0%} right")
    judge = Networks.of({k: v.astype(np.float16).astype(float) for k, v in arrays.items()}, "wet")
    odds = wetness.USUAL / (1 - wetness.USUAL)
    found = {}
    for name, is_wet in (("wet", True), ("dry", False)):
        said = np.exp([judge.answers(t).mean() for t in _looks(held, is_wet)]) * odds
        found[name] = said / (1 + said)
    for words, least in (("sure", wetness.SURE), ("asked", wetness.ASK_FROM)):
        shares = {name: float((p >= least).mean()) for name, p in found.items()}
        print(f"  {words}: {shares['wet']:.0%} of wet, {shares['dry']:.2%} of dry lessons")


def save(path: Path, arrays: Mapping[str, np.ndarray]) -> None:
    np.savez_compressed(path, **{name: values.astype(np.float16) for name, values in arrays.items()})
    print(f"  {path.name}: {path.stat().st_size / 1024:.0f} KB")


if __name__ == "__main__":
    taught, apart, parts = read("set"), read("held"), sys.argv[1:] or ["water", "wet"]
    if "wet" in parts:
        print("wet:", flush=True)
        teach_wet(taught, apart)
    if "water" in parts:
        print("water:", flush=True)
        teach_water(joined(read("mixed"), taught), apart)
