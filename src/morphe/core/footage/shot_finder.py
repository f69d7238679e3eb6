"""Cuts, dissolves, fades and what is covered, found frame by frame while a clip is decoded for other ends.

Neighbouring frames of one shot show the same fine structure somewhere near: their luma without its coarse
part, laid over each other by normalised correlation (Lewis 1995), which no change of exposure or balance
touches. Across a cut it falls from above 0.5 to below 0.4. A whip falls too, but over several frames; after a
flash the structure of before is back. In a dissolve every frame is the sum of two that are nothing alike.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import cv2
import numpy as np

from morphe.core.footage.shots import SHORTEST_S, Cut, Shots
from morphe.core.signal.arrays import Float

__all__ = ["GRID", "ShotFinder"]

GRID = (64, 36)  # cells across and down
COARSE = (13, 13)  # cells: what is larger is taken off
REACH = (10, 5)  # cells by which frames are moved over each other
PLAIN = 1 / 255  # of fine structure: less may be what a coder left
CUT, BACK = 0.42, 0.5  # likeness across a cut is below; of what came back after a flash is above
NEARLY = 0.85  # likeness from which it is not looked for where the picture has gone
ANCHORED = 250.0  # steps of 8 bits by which fine structure is kept
SPIKE = 0.3  # by which likeness falls against that of the frames around: a whip lasts longer
BLURRED = 0.9  # of the fine structure that is there beside a whip
FLASH_S = 0.45
ENDS, EXPLAINED = 0.42, 0.7  # likeness of a dissolve's ends is below; what they explain of its frames
LEFT = 0.65  # of the detail of its ends, in a dissolve
EVEN = (0.35, 0.2)  # in every part of it: explained at least, and the share of either end
TOLD = 3  # of six parts show enough to tell: what passes a plain wall shows in one or two
MOVED = (0.65, 6, 4)  # likeness of all hops from above, and cells across or down: it was the camera
WINDOWS_S = (0.35, 0.6, 1.0)
QUICKEST = 60  # frames a second: of quicker clips dissolves are looked for in every second, fourth, … frame
CHANGES = 0.05  # of likeness, summed over a window: less and nothing changes in it
BLANK, DARK, WHITE = 0.012, 0.2, 0.9  # spread of luma, and its mean below or above: shows nothing
LONGEST_FADE_S, PLATEAU_S, RISING, FULL = 4.0, 0.3, 0.994, 0.97
DIMMED, AS_MUCH = (
    0.5,
    0.25,
)  # spread left of a fade's other end; by how much its mean may stray from that share

Run = tuple[int, int]  # the first frame and the last


class _Fine:
    """The fine structure of a frame (36, 64), what of it is looked for in others, and that on one length."""

    __slots__ = ("detail", "part", "picture", "unit")

    def __init__(self, picture: Float) -> None:
        self.picture, self.part = picture, _part(picture)
        flat = self.part.ravel()
        flat = flat - flat.mean()
        length = float(np.sqrt(flat @ flat))
        self.detail = length / np.sqrt(flat.size)
        self.unit = flat / length if self.detail > PLAIN else None


class ShotFinder:
    """Takes the luma of frames one after another, and says at the end where shots meet."""

    def __init__(self, fps: float) -> None:
        self._fps = fps
        self._every = max(1, round(fps / QUICKEST))
        longest = max(*WINDOWS_S, FLASH_S)
        self._ring: deque[_Fine] = deque(maxlen=max(4, round(longest * fps) + 3))
        self._times: list[float] = []
        self._like: list[float] = []
        self._mean: list[float] = []
        self._spread: list[float] = []
        self._detail: list[float] = []
        self._back: dict[int, int] = {}  # last frame of what interrupts, by its first
        self._mixed: list[tuple[float, int, int]] = []  # (how surely, first, last) of dissolves
        self._anchors: dict[
            int, Any
        ] = {}  # fine structure now and then, to hold both sides of a fade together

    def add(self, time_s: float, luma: Float) -> None:
        """A frame's luma (36, 64), 0..1."""
        fine = _Fine(luma - cv2.blur(luma, COARSE))
        mean, spread = (float(v[0][0]) for v in cv2.meanStdDev(luma))
        self._like.append(_likeness(self._ring[-1], fine) if self._ring else 1.0)
        self._ring.append(fine)
        self._times.append(time_s)
        self._mean.append(mean)
        self._spread.append(spread)
        self._detail.append(fine.detail)
        at = len(self._times) - 1
        self._note_return(at)
        if at % (2 * self._every) == 0:
            self._note_mixture(at)
        if at % max(1, round(self._fps / 2)) == 0:
            self._anchor(at)
        if at and self._is_blank(at) != self._is_blank(at - 1):  # what shows on either side of nothing
            self._anchor(at - 1 if self._is_blank(at) else at)

    def shots(self) -> Shots:
        """What was found.

        Frames are counted from 0; a cut's time is that of the first frame after it.
        """
        if len(self._times) < 2:
            return Shots(duration_s=(self._times or [0.0])[-1] + 1 / self._fps)
        times = np.array([*self._times, self._times[-1] + 1 / self._fps])
        blanks = self._blanks()
        hard = self._hard_cuts(blanks)
        soft = self._dissolves(hard, blanks)
        through, blind = self._through_black(blanks)
        found = [Cut(time_s=float(times[at])) for at in hard]
        found += [
            Cut(time_s=float(times[(a + b) // 2]), kind=kind, span=(float(times[a]), float(times[b])))
            for kind, spans in (("dissolve", soft), ("fade", through))
            for a, b in spans
        ]
        spans = [(float(times[a]), float(times[min(b + 1, len(times) - 1)])) for a, b in self._back.items()]
        spans += [(float(times[a]), float(times[b])) for a, b in blind]
        return Shots(
            duration_s=float(times[-1]), cuts=_apart(found, float(times[-1])), blind=tuple(sorted(spans))
        )

    # -- while frames arrive -------------------------------------------------------------------------

    def _anchor(self, at: int) -> None:
        fine = self._ring[at - len(self._times)]
        self._anchors[at] = np.clip(fine.picture * ANCHORED, -127, 127).astype(np.int8)

    def _note_return(self, at: int) -> None:
        """Whether this frame shows again what was seen before something interrupted it: a flash, a frame."""
        ring, most, is_back = self._ring, round(FLASH_S * self._fps) + 1, False
        for back in range(2, min(most, len(ring) - 1) + 1):
            first = at - back + 1  # the first that differed
            begins, ends = self._like[first] <= BACK, self._like[at] < CUT  # a flash may come in steps
            if first in self._back or not (begins or (ends and not is_back)):
                continue
            if _likeness(ring[-1 - back], ring[-1], BACK) > BACK:
                self._back[first], is_back = at - 1, True

    def _note_mixture(self, at: int) -> None:
        """Whether the frames before this one are the sum of what stands at both ends of a window."""
        for seconds in WINDOWS_S:
            length = max(round(seconds * self._fps), 4)
            if len(self._ring) <= length:
                continue
            first, since = at - length, self._like[at - length + 1 : at + 1]
            if min(self._spread[first], self._spread[at]) < BLANK or min(since) < CUT:
                continue
            if sum(since) > length - CHANGES:
                continue
            within = [self._ring[-1 - round(length * share)] for share in (0.75, 0.5, 0.25)]
            surely = _mixture(self._ring[-1 - length], within, self._ring[-1])
            if surely > 0:
                self._mixed.append((surely, first, at))

    # -- at the end ----------------------------------------------------------------------------------

    def _hard_cuts(self, blanks: list[Run]) -> list[int]:
        like = np.array(self._like)
        inside = np.zeros(len(like) + 1, bool)
        for first, last in self._back.items():
            inside[first : last + 2] = True
        for first, last in blanks:
            inside[first : last + 2] = True
        found = []
        for at in np.flatnonzero(like < CUT):
            around = [like[n] for n in (at - 1, at + 1) if 1 <= n < len(like)]
            is_spike = all(like[at] + SPIKE <= value for value in around)
            if is_spike and not inside[at] and not self._is_whip(int(at)):
                found.append(int(at))
        return found

    def _is_whip(self, at: int) -> bool:
        """Whether the frames on both sides are more blurred than those beyond them."""
        detail = self._detail
        before, after = detail[max(at - 4, 0) : at - 1], detail[at + 1 : at + 4]
        return bool(before and after) and (
            detail[at - 1] < BLURRED * max(before) and detail[at] < BLURRED * max(after)
        )

    def _is_blank(self, at: int) -> bool:
        return self._spread[at] < BLANK and not DARK <= self._mean[at] <= WHITE

    def _blanks(self) -> list[Run]:
        """Runs (first, last) of frames that show nothing; none where no frame shows anything."""
        blank = np.array([self._is_blank(at) for at in range(len(self._times))])
        return [] if blank.all() else _runs(blank)

    def _dissolves(self, hard: list[int], blanks: list[Run]) -> list[Run]:
        """The surest of each group of windows that overlap, away from cuts, with all that agree with it."""
        taken: list[Run] = [(at, at) for at in hard] + blanks
        taken += list(self._back.items())
        found = []
        for _, first, last in sorted(self._mixed, reverse=True):
            if all(last < a or first > b for a, b in taken):
                most = 1.8 * (last - first)  # no window of more than the next length
                alike = [m for m in self._mixed if first <= (m[1] + m[2]) / 2 <= last and m[2] - m[1] <= most]
                found.append((min(m[1] for m in alike) + 1, max(m[2] for m in alike)))
                reach = last - first
                taken.append((first - reach // 2, last + reach // 2))
        return sorted(found)

    def _through_black(self, blanks: list[Run]) -> tuple[list[Run], list[Run]]:
        """Blank stretches with the fades around them: those between two shots, and all others."""
        between, others = [], []
        for begin, end in _merged([(self._fade(a, -1), self._fade(b, 1) + 1) for a, b in blanks]):
            is_inside = begin > 0 and end < len(self._times)
            if is_inside and not self._alike_around(begin, end):
                between.append((begin, end))
            else:
                others.append((begin, end))
        count, known = len(self._times), [span for span in (*between, *others)]
        for edge, way in ((0, 1), (count - 1, -1)):  # a fade whose blank frame is not there
            end = self._fade(edge, way)
            if self._is_dimmed(edge, end) and not any(a <= edge < b for a, b in known):
                others.append((min(edge, end), max(edge, end) + 1))
        return between, others

    def _is_dimmed(self, edge: int, end: int) -> bool:
        """Whether a frame is another on its way to black or white: the mean goes there as the spread does."""
        left = self._spread[edge] / max(self._spread[end], 1e-6)
        ways = ((self._mean[edge], self._mean[end]), (1 - self._mean[edge], 1 - self._mean[end]))
        return left < DIMMED and any(abs(begun - left * full) < AS_MUCH * full for begun, full in ways)

    def _fade(self, at: int, way: int) -> int:
        """The last frame of a fade that begins in a blank one: spread grows, and then it no longer does."""
        spread, recent = self._spread, max(1, round(PLATEAU_S * self._fps))
        end = at
        for here in range(at + way, at + way * round(LONGEST_FADE_S * self._fps), way):
            if not 0 <= here < len(spread) or spread[here] < RISING * spread[end]:
                break
            shows = spread[end] > BLANK
            if shows and self._like[max(here, end)] < CUT:
                break
            end = here
            if shows and abs(end - at) > recent and spread[end - recent * way] > FULL * spread[end]:
                break
        full = FULL * spread[end]
        while end != at and spread[end - way] >= full:
            end -= way
        return end - way if end != at else at

    def _alike_around(self, begin: int, end: int) -> bool:
        """Whether the same is shown before and after."""
        shown = [n for n in self._anchors if not any(a <= n <= b for a, b in self._back.items())]
        before, after = [n for n in shown if n < begin], [n for n in shown if n >= end]
        if not before or not after:
            return False
        one, other = (_Fine(self._anchors[n] / np.float32(ANCHORED)) for n in (max(before), min(after)))
        return _likeness(one, other) > BACK


def _likeness(one: _Fine, other: _Fine, enough: float = NEARLY) -> float:
    """How alike the fine structure of two frames is, moved over each other: -1..1; 1 where there is none.

    Where it is `enough` without moving anything, nothing is moved: most frames of most clips.
    """
    if one.unit is None or other.unit is None:
        return 1.0
    here = float(one.unit @ other.unit)
    if here > enough:
        return here
    return float(cv2.matchTemplate(one.picture, other.part, cv2.TM_CCOEFF_NORMED).max())


def _mixture(first: _Fine, within: Sequence[_Fine], last: _Fine) -> float:
    """How surely frames are sums of two that have nothing in common, ever more of the second; 0 if not."""
    # The mean of two pictures keeps at least 0.71 of the poorer one's detail; less is a whip's blur.
    if min(frame.detail for frame in within) < LEFT * min(first.detail, last.detail):
        return 0.0
    if _likeness(first, last, ENDS) > ENDS:
        return 0.0
    laid = [(_laid(first, frame), frame.part, _laid(last, frame)) for frame in within]
    found = [_sum_of(*three) for three in laid]
    shares = [share for _, share in found]
    surely = min(explained for explained, _ in found)
    rises = shares[0] + 0.1 < shares[1] < shares[2] - 0.1
    if surely < EXPLAINED or not rises or not _is_even(*laid[len(laid) // 2]):
        return 0.0
    return 0.0 if _is_moved([first, *within, last]) else surely


def _is_moved(frames: Sequence[_Fine]) -> bool:
    """Whether frames are one picture that is moved out of sight."""
    hops = [_found(one, other) for one, other in pairwise(frames)]
    if min(like for like, _, _ in hops) < MOVED[0]:
        return False
    return any(abs(sum(hop[axis] for hop in hops)) > far for axis, far in ((1, MOVED[1]), (2, MOVED[2])))


def _part(frame: Float) -> Float:
    """What of a frame is looked for in another."""
    across, down = REACH
    return frame[down:-down, across:-across]


def _found(one: _Fine, other: _Fine) -> tuple[float, int, int]:
    """Where a part fits best in a frame: how alike, and by how many cells it moved across and down."""
    answer = cv2.matchTemplate(one.picture, other.part, cv2.TM_CCOEFF_NORMED)
    _, like, _, (x, y) = cv2.minMaxLoc(answer)
    return float(like), x - REACH[0], y - REACH[1]


def _laid(end: _Fine, frame: _Fine) -> Float:
    """The part of a window's end that lies under a part of a frame, where both fit best."""
    _, x, y = _found(end, frame)
    height, width = frame.part.shape
    return end.picture[y + REACH[1] :, x + REACH[0] :][:height, :width]


def _is_even(one: Float, frame: Float, other: Float) -> bool:
    """Whether every part of a frame is such a sum: what moves shows one here and the other there."""
    least, told = 0.25 * frame.std(), 0
    for rows in np.array_split(np.arange(frame.shape[0]), 2):
        for columns in np.array_split(np.arange(frame.shape[1]), 3):
            parts = [p[np.ix_(rows, columns)] for p in (one, frame, other)]
            if min(parts[0].std(), parts[2].std()) < least:
                continue  # too plain to tell
            explained, share = _sum_of(*parts)
            if explained < EVEN[0] or not EVEN[1] < share < 1 - EVEN[1]:
                return False
            told += 1
    return told >= TOLD


def _sum_of(one: Float, frame: Float, other: Float) -> tuple[float, float]:
    """How much of a frame the sum of two explains by least squares, and the other's share in it."""
    ends = np.stack([one.ravel(), other.ravel()], axis=1).astype(np.float64)
    ends -= ends.mean(axis=0)
    wanted = (frame - frame.mean()).ravel().astype(np.float64)
    shares = np.linalg.solve(ends.T @ ends + 1e-9 * np.eye(2), ends.T @ wanted)
    if min(shares) < 0:
        return 0.0, 0.0
    left = np.square(wanted - ends @ shares).sum() / max(np.square(wanted).sum(), 1e-9)
    return float(1 - left), float(shares[1] / max(shares.sum(), 1e-9))


def _runs(flags: Any) -> list[Run]:
    """Runs (first, last) of what is true."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8)))
    return [(int(a), int(b) - 1) for a, b in edges.reshape(-1, 2)]


def _apart(cuts: list[Cut], end_s: float) -> tuple[Cut, ...]:
    """Cuts in order, none so near another or an end that nothing lies between."""
    found: list[Cut] = []
    for cut in sorted(cuts):
        if (
            cut.time_s - (found[-1].time_s if found else 0.0) >= SHORTEST_S
            and end_s - cut.time_s >= SHORTEST_S
        ):
            found.append(cut)
    return tuple(found)


def _merged(spans: list[Run]) -> list[Run]:
    """Spans in order, those that touch as one."""
    found: list[Run] = []
    for begin, end in sorted(spans):
        if found and begin <= found[-1][1] + 1:
            found[-1] = found[-1][0], max(end, found[-1][1])
        else:
            found.append((begin, end))
    return found
