"""Morphe on a device's own screen: its manifest, what keeps pages there, and what is worth keeping."""

from __future__ import annotations

import json
from functools import lru_cache
from pathlib import Path

from django.conf import settings
from django.contrib.staticfiles.storage import staticfiles_storage
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.templatetags.static import static
from django.urls import reverse
from django.views.decorators.http import require_safe

from morphe.web.outings.services.current import current_outing
from morphe.web.plan.services.current import plan_of

WORKER = Path(__file__).with_name("service-worker.js")
GROUND = "#1b1b1d"
SIZES = (192, 512)


@require_safe
def manifest(request: HttpRequest) -> JsonResponse:
    """How Morphe is put on a device's home screen (W3C Web Application Manifest)."""
    icons = [
        {"src": static(f"devices/icon-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png",
         "purpose": purpose}
        for size in SIZES for purpose in ("any", "maskable")
    ]  # fmt: skip
    return JsonResponse(
        {"name": "Morphe", "short_name": "Morphe", "start_url": reverse("today"), "scope": "/",
         "display": "standalone", "background_color": GROUND, "theme_color": GROUND, "icons": icons},
        content_type="application/manifest+json",
    )  # fmt: skip


@require_safe
def service_worker(request: HttpRequest) -> HttpResponse:
    """The script that keeps pages on the device, told what this Morphe's shell consists of."""
    version, statics = _shell()
    told = {"version": version, "statics": statics, "static": settings.STATIC_URL,
            "offline": reverse("offline"), "wanted": reverse("offline-wanted")}  # fmt: skip
    text = f"self.MORPHE = {json.dumps(told)};\n{WORKER.read_text(encoding='utf-8')}"
    return HttpResponse(text, content_type="text/javascript; charset=utf-8")


@lru_cache(maxsize=1)
def _shell() -> tuple[str, list[str]]:
    """The version of what belongs to every page, and its addresses; scripts ask for each other by name."""
    hashed: dict[str, str] = getattr(staticfiles_storage, "hashed_files", {})
    scripts = {f"{settings.STATIC_URL}{name}" for name in hashed if name.endswith(".js")}
    version = getattr(staticfiles_storage, "manifest_hash", "") or "0"
    return version, sorted({staticfiles_storage.url(name) for name in hashed} | scripts)


@require_safe
def wanted(request: HttpRequest) -> JsonResponse:
    """Pages that are kept whether they were looked at or not: today, the plan, and every shoot card."""
    cameras = plan_of(current_outing()).cameras.all()
    plan = reverse("plan")
    pages = [reverse("today"), plan]
    for planned in cameras:
        pages += [
            f"{plan}?camera={planned.camera_id}",
            f"{reverse('plan-card', args=[planned.pk])}?here=yes",
        ]
    return JsonResponse({"pages": pages})


@require_safe
def offline(request: HttpRequest) -> HttpResponse:
    """Shown in place of a page that was not kept."""
    return render(request, "devices/offline.html")
