"""Moments of a clip that other places listen to; each gets the clip as `clip`."""

from django.dispatch import Signal

origin_found = (
    Signal()
)  # camera and time are known, nothing is judged yet; the listener may set card and take
judged = Signal()  # profile and rungs are new; the listener may set what differs from the plan
decided = Signal()  # a version was added
