"""Teach what `morphe.core.advise` estimates by, and say how it fares on photographs held back.

`python -m bench.teach` takes the lessons of `python -m bench.lessons` and writes files of weights: which
profile codes resemble (resemblance), where a curve puts its landmarks (landing), and the colour of the light
(light_estimate). Every start is a fixed seed. Name some of `kind landing light` to teach only those.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping
from pathlib import Path
from warnings import catch_warnings, simplefilter

import numpy as np
from sklearn.exceptions import ConvergenceWarning
from sklearn.neural_network import MLPClassifier, MLPRegressor

from bench.lessons import SHARES
from morphe.core.advise.light import estimate as light_estimate
from morphe.core.advise.light.votes import BINS, CENTRES, CHANNELS, STEP
from morphe.core.advise.networks import FARTHEST, Networks
from morphe.core.advise.profile import landing, metering, resemblance
from morphe.core.advise.profile.explain import kind_of
from morphe.core.advise.profile.resemblance import CLASSES
from morphe.core.signal.families import FAMILIES
from morphe.core.signal.profiles import Kind

LESSONS = Path(".cache/lessons")
NETWORKS, BLUR, FOLDS = 3, 0.2, 4
KIND_LAYERS, KIND_ROUNDS = (96, 48), 14
LANDING_LAYERS, LANDING_ROUNDS = (96, 48), 25
SPREAD_LAYERS, SPREAD_ROUNDS = (24,), 20
PARTS = ("kind", "landing", "exposure", "light")
Lessons = Mapping[str, np.ndarray]


def read(name: str) -> Lessons:
    """Lessons of a set whose light could be told."""
    with np.load(LESSONS / f"{name}.npz") as file:
        arrays = {key: file[key] for key in file.files}
    ok = np.isfinite(arrays["light"]).all(axis=1)
    return {key: values[ok] for key, values in arrays.items()}


def _scaling(traits: np.ndarray) -> dict[str, np.ndarray]:
    return {"mean": traits.mean(axis=0), "spread": traits.std(axis=0) + 1e-3}


def _scaled(traits: np.ndarray, scaling: Mapping[str, np.ndarray]) -> np.ndarray:
    return np.clip((traits - scaling["mean"]) / scaling["spread"], -FARTHEST, FARTHEST)


def _fitted(make: Callable[[int], object], inputs: np.ndarray, wanted: np.ndarray) -> list:  # type: ignore[type-arg]
    """Networks from several starts, each on inputs blurred anew."""
    found = []
    for seed in range(NETWORKS):
        blurred = inputs + np.random.default_rng(seed).normal(0, BLUR, inputs.shape)
        with catch_warnings():
            simplefilter("ignore", ConvergenceWarning)  # they are ended early on purpose
            found.append(make(seed).fit(blurred, wanted))  # type: ignore[attr-defined]
    return found


def _layers(name: str, networks: list) -> dict[str, np.ndarray]:  # type: ignore[type-arg]
    found = {}
    for layer in range(len(networks[0].coefs_)):
        found[f"{name}_weights{layer}"] = np.stack([n.coefs_[layer] for n in networks])
        found[f"{name}_offsets{layer}"] = np.stack([n.intercepts_[layer] for n in networks])
    return found


def _save(path: Path, arrays: Mapping[str, np.ndarray]) -> None:
    np.savez_compressed(path, **{name: values.astype(np.float16) for name, values in arrays.items()})
    print(f"  {path.name}: {path.stat().st_size / 1024:.0f} KB")


# --- kind ---------------------------------------------------------------------------------------------


def teach_kind(lessons: Lessons, held: Lessons) -> None:
    def make(seed: int) -> MLPClassifier:
        return MLPClassifier(
            hidden_layer_sizes=KIND_LAYERS, alpha=1.0, batch_size=256, max_iter=KIND_ROUNDS, random_state=seed
        )

    scaling = _scaling(lessons["traits"])
    networks = _fitted(make, _scaled(lessons["traits"], scaling), lessons["classes"].astype(int))
    shares = np.array([SHARES[c] for c in CLASSES])
    arrays = scaling | {"shares": shares} | _layers("kind", networks)
    _save(resemblance.TAUGHT, arrays)
    taught = Networks.of(arrays, "kind")
    right: dict[Kind, list[bool]] = {kind: [] for kind in Kind}
    for traits, at in zip(held["traits"], held["classes"].astype(int), strict=True):
        mass = dict.fromkeys(Kind, 0.0)
        for key, share in zip(CLASSES, resemblance.judged(traits, taught, shares) * shares, strict=True):
            mass[kind_of(key)] += share
        true = kind_of(CLASSES[at])
        right[true].append(max(mass, key=mass.__getitem__) is true)
    for kind, found in right.items():
        print(f"  {kind.word}: {100 * np.mean(found):.0f} % of {len(found)} right by resemblance alone")


# --- landing --------------------------------------------------------------------------------------------


OF_GREY = 2.0  # times as much as black, white and colour: where grey lands shows most


def _wanted(lessons: Lessons) -> np.ndarray:
    colour = landing.COLOUR_SCALE * np.log(lessons["colour"])
    return np.concatenate([lessons["landing"], colour[:, None]], axis=1)


def _landing_networks(inputs: np.ndarray, wanted: np.ndarray) -> list:  # type: ignore[type-arg]
    """Networks for landmarks, taught with grey enlarged; what they answer is brought back to scale."""
    scale = np.array([1.0, OF_GREY, 1.0, 1.0])
    networks = _regressors(inputs, wanted * scale, LANDING_LAYERS, LANDING_ROUNDS)
    for network in networks:
        network.coefs_[-1] /= scale
        network.intercepts_[-1] /= scale
    return networks


def _of_kind(lessons: Lessons, kind: Kind) -> Lessons:
    keys = [kind_of(CLASSES[int(at)]) is kind for at in lessons["classes"]]
    return {name: values[np.array(keys)] for name, values in lessons.items()}


def _regressors(inputs: np.ndarray, wanted: np.ndarray, layers: tuple[int, ...], rounds: int) -> list:  # type: ignore[type-arg]
    def make(seed: int) -> MLPRegressor:
        return MLPRegressor(
            hidden_layer_sizes=layers, alpha=1.0, batch_size=256, max_iter=rounds, random_state=seed
        )

    return _fitted(make, inputs, wanted)


def _said(networks: list, inputs: np.ndarray) -> np.ndarray:  # type: ignore[type-arg]
    return np.mean([n.predict(inputs) for n in networks], axis=0)


def teach_landing(lessons: Lessons, held: Lessons) -> None:
    arrays = _scaling(lessons["traits"])
    for kind in FAMILIES:
        own, apart = _of_kind(lessons, kind), _of_kind(held, kind)
        inputs, wanted = _scaled(own["traits"], arrays), _wanted(own)
        missed = _out_of_fold(inputs, wanted, own["photograph"], _landing_networks)
        length, axes = np.linalg.eigh(np.cov(missed.T))
        away = ((missed @ axes) ** 2 / length).mean(axis=1)
        spread = _regressors(inputs, np.log(away + 0.05), SPREAD_LAYERS, SPREAD_ROUNDS)
        mean = _landing_networks(inputs, wanted)
        arrays |= _layers(f"{kind}_mean", mean) | _layers(f"{kind}_spread", spread)
        arrays[f"{kind}_axes"] = (axes * np.sqrt(length)).T[::-1]
        error = _said(mean, _scaled(apart["traits"], arrays)) - _wanted(apart)
        rms = 100 * np.sqrt((error**2).mean(axis=0))[:3]
        base = 100 * _wanted(apart).std(axis=0)[:3]
        print(f"  {kind.word}: black, grey, white missed by {rms.round(1)} % (they vary by {base.round(1)})")
    _save(landing.TAUGHT, arrays)


def _out_of_fold(
    inputs: np.ndarray,
    wanted: np.ndarray,
    photograph: np.ndarray,
    fit: Callable[..., list],  # type: ignore[type-arg]
) -> np.ndarray:
    """What is missed on photographs that were not taught."""
    missed = np.zeros_like(wanted)
    fold = photograph % FOLDS
    for part in range(FOLDS):
        there = fit(inputs[fold != part], wanted[fold != part])
        missed[fold == part] = _said(there, inputs[fold == part]) - wanted[fold == part]
    return missed


def _exposure_networks(inputs: np.ndarray, wanted: np.ndarray) -> list:  # type: ignore[type-arg]
    return _regressors(inputs, wanted, LANDING_LAYERS, LANDING_ROUNDS)


def teach_exposure(lessons: Lessons, held: Lessons) -> None:
    own, apart = _of_kind(lessons, Kind.STANDARD), _of_kind(held, Kind.STANDARD)
    arrays = _scaling(lessons["traits"])
    inputs, wanted = _scaled(own["traits"], arrays), own["stops"]
    missed = _out_of_fold(inputs, wanted, own["photograph"], _exposure_networks)
    arrays |= _layers("mean", mean := _exposure_networks(inputs, wanted))
    arrays |= _layers("spread", _regressors(inputs, np.log(missed**2 + 0.005), SPREAD_LAYERS, SPREAD_ROUNDS))
    _save(metering.TAUGHT, arrays)
    error = _said(mean, _scaled(apart["traits"], arrays)) - apart["stops"]
    print(
        f"  missed by {np.median(np.abs(error)):.2f} stops (median), {np.sqrt((error**2).mean()):.2f} (rms)"
    )


# --- light ----------------------------------------------------------------------------------------------

BATCH, ROUNDS, RATE, SMOOTH, LEAST = 512, 14, 0.05, 2e-5, 1e-4
BLUR_BINS = 0.5  # around the true light


def _usable(lessons: Lessons) -> Lessons:
    ok = lessons["votes"].astype(np.float32).sum(axis=(1, 2, 3)) > 0.1
    ok &= np.isin(
        lessons["classes"], [n for n, c in enumerate(CLASSES) if kind_of(c) not in (Kind.HLG, Kind.PQ)]
    )
    return {name: values[ok] for name, values in lessons.items() if name in ("votes", "light")}


def _around(lights: np.ndarray) -> np.ndarray:
    """Distributions (n, BINS, BINS) about true lights."""
    away = (
        np.clip(lights, CENTRES[1], CENTRES[-2])[..., None] / STEP + BINS // 2 - np.arange(BINS)
    ) / BLUR_BINS
    bells = np.exp(-0.5 * away**2)
    found = bells[:, 0, :, None] * bells[:, 1, None, :]
    return np.asarray(found / found.sum(axis=(1, 2), keepdims=True))


def _spoken(seen: np.ndarray, filters: np.ndarray, usual: np.ndarray) -> np.ndarray:
    score = np.fft.irfft2((seen * np.conj(np.fft.rfft2(filters))).sum(axis=1), s=(BINS, BINS)) + usual
    mass = np.exp(score - score.max(axis=(1, 2), keepdims=True))
    return np.asarray(mass / mass.sum(axis=(1, 2), keepdims=True))


def _seen(votes: np.ndarray) -> np.ndarray:
    parts = np.array_split(votes, max(1, len(votes) // 2048))
    return np.concatenate(
        [np.fft.rfft2(light_estimate.votes_of(p.astype(np.float32))).astype(np.complex64) for p in parts]
    )


def teach_light(lessons: Lessons, held: Lessons) -> None:
    own, apart = _usable(lessons), _usable(held)
    seen, wanted = _seen(own["votes"]), _around(own["light"])
    filters = np.zeros((2 * CHANNELS, BINS, BINS))
    usual = np.log(wanted.mean(axis=0) + LEAST)
    state = [np.zeros_like(p) for p in (filters, filters, usual, usual)]
    generator, step = np.random.default_rng(0), 0
    for turn in range(ROUNDS):
        order = generator.permutation(len(seen))
        rate = RATE * (1 if turn < 0.6 * ROUNDS else 0.3 if turn < 0.85 * ROUNDS else 0.1)
        for first in range(0, len(seen), BATCH):
            batch, step = order[first : first + BATCH], step + 1
            away = (_spoken(seen[batch], filters, usual) - wanted[batch]) / len(batch)
            pull = np.fft.irfft2(
                (seen[batch] * np.conj(np.fft.rfft2(away))[:, None]).sum(axis=0), s=(BINS, BINS)
            )
            rough = 4 * filters - sum(np.roll(filters, by, axis) for by in (1, -1) for axis in (1, 2))
            pull += SMOOTH * filters + 4 * SMOOTH * rough
            _follow(filters, pull, state[:2], rate, step)
            _follow(usual, away.sum(axis=0), state[2:], rate, step)
    _save(light_estimate.TAUGHT, {"filters": filters, "usual": usual})
    found = _spoken(_seen(apart["votes"]), filters, usual)
    near = np.array([light_estimate.nearest(p)[0] for p in found])
    error, before = (np.hypot(*(near - apart["light"]).T), np.hypot(*apart["light"].T))
    for name, some in (("lit", before > 0.05), ("neutral", before <= 0.05)):
        print(f"  {name}: {before[some].mean():.3f} stops away, {error[some].mean():.3f} after")


def _follow(values: np.ndarray, pull: np.ndarray, state: list[np.ndarray], rate: float, step: int) -> None:
    """One step down a slope (Kingma and Ba 2015)."""
    state[0] += 0.1 * (pull - state[0])
    state[1] += 0.001 * (pull**2 - state[1])
    values -= rate * (state[0] / (1 - 0.9**step)) / (np.sqrt(state[1] / (1 - 0.999**step)) + 1e-8)


def run(parts: list[str]) -> None:
    lessons, held = read("set"), read("held")
    for name, teach in zip(PARTS, (teach_kind, teach_landing, teach_exposure, teach_light), strict=True):
        if not parts or name in parts:
            print(f"{name}:", flush=True)
            teach(lessons, held)


if __name__ == "__main__":
    run(sys.argv[1:])
