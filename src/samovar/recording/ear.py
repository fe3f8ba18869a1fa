"""Listening on behalf of a run: still for a while, then what was heard becomes a reading of the run, as a recording would.

The course's own readings of noise are taken by it where the run has a microphone; a person may ask for one at any moment.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from samovar.core.by_hand.line import Circumstances
from samovar.core.by_hand.reading import HandReading
from samovar.core.sound.bands import third_octaves
from samovar.core.sound.calibration import Scale
from samovar.core.sound.cutting import Cut, undisturbed
from samovar.core.sound.heard import Heard, character_of, kept_of
from samovar.core.sound.listening import Listening, listen
from samovar.core.sound.meter import in_db
from samovar.exchange.problems import InputError
from samovar.hearing import kept_clip, readings_of
from samovar.recording.hand_readings import circumstances, keep_reading
from samovar.recording.live import LiveRun
from samovar.sources.microphone.source import Microphone
from samovar.sources.protocol import Source

LISTENS_S = 20.0
"""So long everybody is still: a hunting fan's period shows in it, and an ordinary fan's level is known to a tenth of a decibel."""
LEAST_SOUND_S = 3.0
"""A rig that lives faster than life is listened to for at least so much of sound, which does not."""
LOOKS_EVERY_S = 0.1
NAMED_EVERY_S, NAMED_OF_S = 4.0, 4.0
"""So often what sounds now is named, and by so much of it."""
AGAIN = "it was disturbed: be still, and let it listen again"


def sound_wanted_s(speed: float) -> float:
    """How much sound is listened to where a run's seconds pass so many times as fast."""
    return max(LEAST_SOUND_S, LISTENS_S / speed)


@dataclass(frozen=True)
class HeardNow:
    """What was heard in one go: the reading, None where too much of it was somebody else, and the words for people."""

    reading: HandReading | None
    words: str


class Ear:
    """Listens with one microphone.

    Args:
        live: the run.
        microphone: one of its sources.
        background: what the room alone sounded like; None where nobody listened to it.
        keep: keeps a piece of sound, where the microphone was asked to.
        told: is told what was heard, from the ear's thread.
    """

    def __init__(
        self,
        live: LiveRun,
        microphone: Microphone,
        background: Listening | None = None,
        keep: Callable[[bytes], str] | None = None,
        told: Callable[[HeardNow], None] = lambda heard: None,
    ) -> None:
        self.live = live
        self.microphone = microphone
        self.background = background
        self.told = told
        self._keep = keep if microphone.keeps_sound else None
        self._until_s: float | None = None
        self._wanted_s = sound_wanted_s(live.machine.clock.speed)
        self._tried = 0
        self._named_s = 0.0
        self.character = ""
        if live.course is not None:
            # A settled load waits for it.
            live.course.listens = True
        threading.Thread(target=self._serve, name=f"ear-{microphone.name}", daemon=True).start()

    @property
    def bands_db(self) -> tuple[tuple[float, float], ...]:
        """The third octaves of the background by frequency, as the run's channels have theirs; empty without one."""
        if self.background is None:
            return ()
        off_db = self.microphone.scale.raise_db if self.microphone.scale is not None else 0.0
        return tuple(
            (hz, float(in_db([square])[0]) + off_db)
            for hz, square in third_octaves(self.background.spectrum, self.background.rate_hz)
        )

    @property
    def remaining_s(self) -> float | None:
        """How long it is to be still yet, seconds of sound; None while it does not listen."""
        until_s = self._until_s
        return None if until_s is None else max(0.0, until_s - self.microphone.heard_s)

    def begin(self) -> None:
        """Be still from now on: what sounds in the next while is taken."""
        if self._until_s is None:
            self._until_s = self.microphone.heard_s + self._wanted_s
            if self.live.course is not None:
                self.live.course.listening = True
            self.live.recorder.mark(f"listening for {self._wanted_s:.0f} s: be still")

    def _serve(self) -> None:
        silent_since: float | None = None
        heard_s = self.microphone.heard_s
        while not self.live.sealed.wait(LOOKS_EVERY_S):
            self._name()
            if self._until_s is None:
                if noise_is_due(self.live) and self._tried < 2:
                    self._tried += 1
                    self.begin()
                continue
            now_s = self.microphone.heard_s
            silent_since = None if now_s > heard_s else silent_since or time.monotonic()
            heard_s = now_s
            if now_s >= self._until_s:
                self._take()
            elif silent_since is not None and time.monotonic() - silent_since > LISTENS_S:
                self._end(
                    HeardNow(None, f"{self.microphone.name}: {self.microphone.trouble or 'no sound came'}")
                )
                silent_since = None
        self._until_s = None

    def _name(self) -> None:
        """Say what it sounds like just now."""
        now_s = self.microphone.heard_s
        if now_s - self._named_s < NAMED_EVERY_S:
            return
        self._named_s = now_s
        samples = self.microphone.last(NAMED_OF_S)
        if samples is not None:
            self.character = character_of(Heard(listen([samples], self.microphone.rate_hz)))

    def _take(self) -> None:
        there = circumstances(self.live)
        try:
            heard = heard_by(self.microphone, self._wanted_s, there, self.background, self._keep)
        except (ValueError, InputError) as problem:
            heard = HeardNow(None, str(problem))
        if heard.reading is not None:
            # The moment it ended, by the run's own clock.
            keep_reading(self.live, replace(heard.reading, at_s=there.now_s))
        self._end(heard)

    def _end(self, heard: HeardNow) -> None:
        if self.live.course is not None:
            self.live.course.listening = False
        if heard.reading is None:
            self.live.recorder.mark(f"nothing was taken: {heard.words}")
        self._until_s = None
        self.told(heard)


def noise_is_due(live: LiveRun) -> bool:
    """Whether the course asks for a sound level now that was not taken yet."""
    course = live.course
    return course is not None and not live.sealed.is_set() and course.is_due("noise", live.recorder.elapsed())


def _heard_last(microphone: Microphone, seconds: float) -> Cut:
    """The last so many seconds without what disturbed them. Raises ValueError: there is not that much sound."""
    samples = microphone.last(seconds)
    if samples is None:
        raise ValueError(f"{microphone.name}: {microphone.trouble or 'it has not heard enough yet'}")
    return undisturbed(samples, microphone.rate_hz)


def background_by(microphone: Microphone, seconds: float) -> tuple[Listening | None, str]:
    """The room alone, as a microphone hears it now, and words on it; None where it was disturbed. Raises ValueError."""
    cut = _heard_last(microphone, seconds)
    if not cut.enough:
        return None, AGAIN
    found = listen([cut.samples], microphone.rate_hz)
    heard = Heard(found, microphone.scale)
    level = heard.level
    loud = f"{level.value:.1f} dBA, " if level is not None else ""
    return found, f"{loud}{character_of(heard)}"


def heard_by(
    microphone: Microphone,
    seconds: float,
    there: Circumstances,
    background: Listening | None = None,
    keep: Callable[[bytes], str] | None = None,
) -> HeardNow:
    """What a microphone heard in the last so many seconds, as a reading.

    Raises:
        ValueError: there is not that much sound.
        InputError: a piece of it was to be kept, and cannot be.
    """
    cut = _heard_last(microphone, seconds)
    if not cut.enough:
        return HeardNow(None, AGAIN)
    listening = listen([cut.samples], microphone.rate_hz, [cut.words] if cut.words else [])
    scale: Scale | None = microphone.scale
    heard = Heard(listening, scale, background, clip=cut.samples if keep is not None else None)
    if scale is None or listening.is_silent:
        why = "not calibrated: how it sounds, not how loud it is" if scale is None else "silence"
        reading = HandReading(
            None, "noise", None, None, "dBA", microphone.name, character=character_of(heard),
            words=why, heard=kept_of(heard).text(),
        )  # fmt: skip
        return HeardNow(reading, f"{character_of(heard)} ({why})")
    reading = readings_of(heard, microphone.name, there, "microphone", kept_clip(heard, keep))[0]
    said = "; ".join(w for w in (character_of(heard), cut.words) if w)
    return HeardNow(reading, f"{reading.text()}: {said}")


def ears_of(
    live: LiveRun,
    beside: Sequence[Source],
    backgrounds: Mapping[str, Listening] | None = None,
    told: Callable[[HeardNow], None] = lambda heard: None,
) -> list[Ear]:
    """One for each microphone of a run; `backgrounds` are the rooms alone, by the microphone's name."""
    known = backgrounds or {}
    return [
        Ear(live, one, known.get(one.name), live.archive.clips.keep, told)
        for one in beside
        if isinstance(one, Microphone)
    ]
