"""How much of the warmth of lamps is taken out: a night scene need not be made noon."""

from __future__ import annotations

from morphe.web.jobs.services.ask import ask
from morphe.web.outings.models import Outing

__all__ = ["LAMPS", "choose_lamps", "share_of_lamps"]

LAMPS = {"neutral": "As neutral as seems meant", "part": "Half kept warm", "warm": "Left warm"}
SHARES = {"neutral": 1.0, "part": 0.5, "warm": 0.0}


def share_of_lamps(outing: Outing) -> float:
    """The share of the warmth of lamps that is taken out, 0..1."""
    return SHARES.get(outing.lamps, 1.0)


def choose_lamps(outing: Outing, key: str) -> None:
    """Keep the person's choice; clips that wait for a decision are judged anew."""
    if key not in LAMPS or key == outing.lamps:
        return
    outing.lamps = key
    outing.save(update_fields=["lamps"])
    for clip_id in outing.clips.undecided().values_list("pk", flat=True):
        ask("judge", clip_id)
