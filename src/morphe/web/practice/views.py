"""Practice: what there is, one exercise at a time, and the record."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import HttpResponseClientRedirect

from morphe.core.errors import MorpheError
from morphe.core.practice.subjects import SUBJECTS
from morphe.web.practice.models import Attempt, Mend, Prepared, Wish
from morphe.web.practice.services import eyes, mends, prepared, record
from morphe.web.practice.services.own_work import leanings
from morphe.web.practice.services.topics import topic
from morphe.web.shell.numbers import decimal, number


@require_safe
def show(request: HttpRequest) -> HttpResponse:
    """Paths, the record, and what to practise next."""
    prepared.ask_ahead()
    mends.ask_ahead()
    context = {
        "paths": record.standings(), "next": record.next_topic(), "leanings": leanings(),
        "thresholds": [
            {"topic": topic(f"eyes-{key}"), "value": value, "unit": eyes.sense_of(key).unit}
            for key, value in eyes.thresholds().items()
        ],
        "own_thresholds": Wish.objects.filter(own_thresholds=True).exists(),
        "answers": Attempt.objects.exclude(subject__startswith="eye-").count(),
        "latest": _latest(),
    }  # fmt: skip
    return render(request, "practice/show.html", context)


def _latest() -> list[dict[str, object]]:
    found = Attempt.objects.exclude(subject__startswith="eye-")[:12]
    return [{"attempt": a, "topic": topic(a.subject)} for a in found]


@require_safe
def take(request: HttpRequest, key: str) -> HttpResponse:
    """The next exercise of a subject."""
    try:
        one, subject = prepared.take(SUBJECTS.get(key).key), topic(key)
    except MorpheError as error:
        raise Http404(str(error)) from error
    return render(request, "practice/exercise.html", _exercise(one) | {"topic": subject})


def _exercise(one: Prepared) -> dict[str, object]:
    seen = prepared.shown(one)
    before = len(seen["pictures"]) - len(seen["choices"])  # pictures that are no choices
    pictures = [
        {"number": n, "choice": n - before, "jpeg": picture, "caption": caption}
        for n, (picture, caption) in enumerate(zip(seen["pictures"], seen["captions"], strict=True))
    ]
    drawn = {"scopes": seen["drawn"], "outline": seen["outline"]}
    return {"one": one, "seen": seen, "pictures": pictures, "drawn": drawn}


@require_POST
def answer(request: HttpRequest, prepared_id: int) -> HttpResponse:
    """Right or wrong, why, and the truth."""
    one, at = Prepared.objects.filter(pk=prepared_id).first(), _place(request)
    try:
        if one is None:
            raise MorpheError("This exercise was taken away by a later one; go back and take the next.")
        found = prepared.answer(one, choice=number(request.POST.get("choice")), at=at)
    except MorpheError as error:
        return render(request, "practice/_answer.html", {"problem": str(error)})
    return render(request, "practice/_answer.html", found | {"one": one, "topic": topic(one.subject)})


def _place(request: HttpRequest) -> tuple[float, float] | None:
    try:
        x, y = (decimal(request.POST.get(name, "")) for name in ("x", "y"))
    except ValueError:
        return None
    return x, y


@require_safe
def compare(request: HttpRequest, sense: str) -> HttpResponse:
    """Two pictures that differ in one thing."""
    try:
        return render(request, "practice/eyes.html", _pair(sense))
    except MorpheError as error:
        raise Http404(str(error)) from error


def _pair(sense: str, said: str = "") -> dict[str, object]:
    walk = eyes.walk_of(sense)
    stair = eyes.staircase_of(walk)
    return {
        "walk": walk, "sense": eyes.sense_of(sense), "topic": topic(f"eyes-{sense}"), "said": said,
        "pair": None if walk.ended else eyes.pair_of(walk), "tired": eyes.tired(walk),
        "answers": stair.answers, "turns": len(stair.turns),
    }  # fmt: skip


@require_POST
def compared(request: HttpRequest, sense: str) -> HttpResponse:
    """Take an answer and show the next pair."""
    try:
        walk = eyes.walk_of(sense)
        if request.POST.get("anew"):
            eyes.begin_anew(walk)
            said = ""
        else:
            place, seed = number(request.POST.get("place")), number(request.POST.get("seed"))
            is_right = eyes.answer(walk, -1 if place is None else place, seed or 0)
            said = {True: "Right.", False: "Wrong: the other one.", None: ""}[is_right]
    except MorpheError as error:
        said = str(error)
    if not request.htmx:  # type: ignore[attr-defined]
        return redirect("practice-eyes", sense)
    return render(request, "practice/_pair.html", _pair(sense, said))


@require_safe
def mend(request: HttpRequest, kind: str) -> HttpResponse:
    """The next clip to mend, on the Bench; a page that waits, while it is being made."""
    try:
        subject = topic(kind)
        if subject.path != "Mending":
            raise Http404("That is not mended.")
        made = mends.begin(kind)
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("practice")
    is_piece = bool(request.htmx)  # type: ignore[attr-defined]
    if made.state == Mend.State.OPEN:
        if is_piece:
            return HttpResponseClientRedirect(reverse("bench-clip", args=[made.clip_id]))
        return redirect("bench-clip", made.clip_id)
    context = {"topic": subject, "made": made}
    return render(request, "practice/_making.html" if is_piece else "practice/making.html", context)


@require_POST
def mended(request: HttpRequest, mend_id: int) -> HttpResponse:
    """Stop here: what was reached, what remains, the truth."""
    made = get_object_or_404(Mend.objects.exclude(clip=None), pk=mend_id)
    mends.end(made)
    return redirect("practice-mended", made.pk)


@require_safe
def mend_result(request: HttpRequest, mend_id: int) -> HttpResponse:
    made = get_object_or_404(Mend.objects.select_related("clip"), pk=mend_id, state=Mend.State.ENDED)
    return render(request, "practice/mended.html", {"made": made, "topic": topic(made.kind)})


@require_safe
def mend_truth(request: HttpRequest, mend_id: int) -> HttpResponse:
    made = get_object_or_404(Mend, pk=mend_id, state=Mend.State.ENDED)
    return HttpResponse(mends.truth_jpeg(made), content_type="image/jpeg")


@require_POST
def wish(request: HttpRequest) -> HttpResponse:
    """Whether one's own thresholds are the tolerance elsewhere."""
    Wish.objects.update_or_create(pk=1, defaults={"own_thresholds": bool(request.POST.get("own"))})
    return redirect("practice")


@require_POST
def start_over(request: HttpRequest) -> HttpResponse:
    record.start_over()
    messages.success(request, "The record is empty; everything begins plain again.")
    return redirect("practice")
