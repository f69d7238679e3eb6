"""What goes along with the picture: its sound, and motion data where the file can hold it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from morphe.core.footage.motion import motion_tracks
from morphe.core.handover.sound import Heard, Sound

__all__ = ["Along"]


class Along:
    """Tracks of a source with their tracks in a target."""

    def __init__(self, source: Any, target: Any, heard: Heard) -> None:
        self.sound = Sound(source, target, heard)
        self._motion = {s.index: _copied(s, target) for s in motion_tracks(source)}
        self.inputs = [*self.sound.inputs, *(source.streams[index] for index in self._motion)]

    def forget(self) -> None:
        """Have decoders remember nothing, as after a jump."""
        for stream in self.sound.inputs:
            stream.codec_context.flush_buffers()

    def pass_on(self, packet: Any) -> Iterator[Any]:
        """Give the target's packets for one packet of the source."""
        copied = self._motion.get(packet.stream.index)
        if copied is None:
            yield from self.sound.pass_on(packet)
        elif packet.dts is not None and packet.size:
            packet.stream = copied
            yield packet

    def flush(self) -> Iterator[Any]:
        """Give what filters and encoders still hold."""
        yield from self.sound.flush()


def _copied(stream: Any, target: Any) -> Any:
    track = target.add_data_stream(stream.name)
    track.time_base = stream.time_base
    return track
