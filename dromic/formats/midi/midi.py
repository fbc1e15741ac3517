"""Standard MIDI Files, in and out, through mido.

Out: one track, one channel a string, repeats written out. In: a track (or all channels of the one track that has
notes), onsets and lengths put on the simplest grid that is near them, beat by beat, and what that moved is said.
Source of the format: Standard MIDI Files 1.0.
"""

from __future__ import annotations

import io
from bisect import bisect_right
from dataclasses import dataclass, replace
from fractions import Fraction

import mido
from mido.midifiles.meta import KeySignatureError

from dromic import presets
from dromic.core.music.phrase import Bar, Event, Note, Phrase, Swing
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.core.values.pitch import note_number
from dromic.core.values.vocabulary import HAMMER, PULL, SLIDE
from dromic.formats.limits import check_count, limit
from dromic.formats.midi.bends import Wheels, range_messages, wheel_of
from dromic.formats.midi.quantise import Played, quantise

TICKS = 960
"""ticks a quarter note in files written"""
DRUMS = 9
"""Channel kept for drums, counted from 0."""
OPEN = 15
"""Channel of notes without a string: no instrument here has so many strings."""
GUITAR = 25
"""Program of a steel-string guitar (General MIDI 1), counted from 0."""
BASS = 33
"""Program of a fingered bass (General MIDI 1), counted from 0."""
LOUD = 112
"""Velocity of accented notes; a setting of ours."""
PLAIN = 88
"""Velocity of plain notes; a setting of ours."""
SOFT = 64
"""Velocity of slurred notes; a setting of ours."""
GRIDS = (1, 2, 3, 4, 6, 8, 5, 12, 7, 16)
"""steps a quarter may be divided into from the beginning of its beat, the simplest first"""
EXACT = 24
"""the finest steps that are taken as meant where everything in a beat lies on them"""
_TUNING = "tuning "
_FAULTS = (OSError, EOFError, ValueError, KeyError, IndexError, TypeError, AttributeError, KeySignatureError)


def midi_bytes(phrase: Phrase, instrument: Instrument) -> bytes:
    """The file of a phrase; notes without a string share a channel of their own."""
    flat = phrase.unrolled()
    file = mido.MidiFile(type=1, ticks_per_beat=TICKS)
    timed: list[tuple[Fraction, int, mido.Message]] = []
    map_track = mido.MidiTrack()
    map_track.append(mido.MetaMessage("track_name", name=_ascii(flat.title)))
    now, metre, tempo = Fraction(0), None, 0
    for index, bar in enumerate(flat.bars):
        if (here := round(60_000_000 / flat.tempo_in(index))) != tempo:
            map_track.append(mido.MetaMessage("set_tempo", tempo=here, time=_ticks(bar.start - now)))
            now, tempo = bar.start, here
        if bar.metre != metre:
            # a pickup is a bar of its own short metre, so that bar lines fall where they are
            map_track.append(_metre_message(bar.metre, bar.length if bar.lead else None, bar.start - now))
            now, metre = bar.start, bar.metre if not bar.lead else None
    file.tracks.append(map_track)
    for event in flat.events:
        for note in event.notes:
            channel = OPEN if note.string is None else (note.string - 1) + (note.string - 1 >= DRUMS)
            loud = LOUD if "accent" in note.marks else SOFT if note.attack in (HAMMER, PULL, SLIDE) else PLAIN
            on = mido.Message("note_on", channel=channel, note=note.pitch, velocity=loud)
            off = mido.Message("note_off", channel=channel, note=note.pitch, velocity=0)
            timed += [(event.onset, 2, on), (event.onset + note.duration, 0, off)]
            timed += [(at, 1, wheel) for at, wheel in wheel_of(note, event.onset, channel)]
    track = mido.MidiTrack()
    track.append(mido.MetaMessage("track_name", name=instrument.label))
    track.append(
        mido.MetaMessage("text", text=_TUNING + " ".join(instrument.tuning_names) + f" capo {instrument.capo}")
    )
    program = BASS if instrument.bass else GUITAR
    track += [
        mido.Message("program_change", channel=c, program=program) for c in sorted({m.channel for _, _, m in timed})
    ]
    for channel in sorted({m.channel for _, _, m in timed if m.type == "pitchwheel"}):
        track += range_messages(channel)
    now = Fraction(0)
    for at, _, message in sorted(timed, key=lambda t: (t[0], t[1])):
        track.append(message.copy(time=_ticks(at) - _ticks(now)))
        now = at
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def not_carried(phrase: Phrase) -> list[str]:
    notices = ["strokes, fingers, sections and techniques other than bends and accents"]
    notices += ["the swing (written straight)"] if phrase.swing.ratio != 1 else []
    notices += ["repeats are written out"] if any(b.repeat_times for b in phrase.bars) else []
    return notices


def _ascii(text: str) -> str:
    return text.encode("latin-1", "replace").decode("latin-1")


def _ticks(time: Fraction) -> int:
    return round(time * TICKS)


def _metre_message(metre: Metre, length: Fraction | None, after: Fraction) -> mido.MetaMessage:
    upper, lower = metre.upper, metre.lower
    if length is not None:
        short = length * lower / 4
        while short.denominator != 1 and lower < 64:
            lower, short = lower * 2, short * 2
        upper = int(short) or 1
    return mido.MetaMessage("time_signature", numerator=min(upper, 255), denominator=lower, time=_ticks(after))


@dataclass(slots=True)
class _Heard:
    onset: Fraction
    end: Fraction
    pitch: int
    velocity: int
    string: int | None
    bend: float = 0.0
    marks: frozenset[str] = frozenset()


def read_midi(data: bytes, tune: int = 1, part: int = 1) -> Phrase:
    """The phrase of a track that holds notes, the first for part 1."""
    try:
        file = mido.MidiFile(file=io.BytesIO(data), clip=True)
    except _FAULTS as error:
        raise DromicError(
            f"its MIDI data is damaged or cut short ({str(error)[:80] or 'it ends early'}); export it again"
        ) from error
    if file.type == 2 or not 0 < file.ticks_per_beat < 0x8000:
        raise DromicError("it counts time in frames or holds separate songs, not read here; export it as type 0 or 1")
    notices: list[str] = []
    tracks = [t for t in file.tracks if any(m.type == "note_on" and m.channel != DRUMS for m in t)]
    if not tracks:
        raise DromicError("there are no notes to plan; give it at least one note")
    if not 1 <= part <= len(tracks):
        raise DromicError(f"there is no part {part}; the file holds {len(tracks)} tracks with notes")
    if len(tracks) > 1:
        notices.append(f"track {part} of {len(tracks)} with notes is read; choose another with --part")
    per = file.ticks_per_beat
    tempos, metres = _maps(file)
    track = tracks[part - 1]
    instrument = _instrument(track)
    heard = _notes(track, per, instrument, notices)
    check_count("notes", len(heard), "notes", "split it")
    check_count("events", len({h.onset for h in heard}), "sounding events", "split it")
    end = max(h.end for h in heard)
    bars = _bars([(Fraction(t, per), m) for t, m in metres], end, limit("bars"), max(h.onset for h in heard))
    tempo = tempos[0][1] if tempos else 120.0
    bars = _paced(bars, [(Fraction(t, per), bpm) for t, bpm in tempos], tempo, notices)
    moved, swing = _quantised(heard, bars, tempo)
    last = bars[-1]
    if max(h.onset for h in heard) >= last.end:  # a note a little before the end of the last bar belongs to the next
        bars = (*bars, Bar(last.number + 1, last.end, last.metre.length, last.metre))
    if moved:
        most = float(max(moved))
        notices.append(
            f"{len(moved)} of {2 * len(heard)} beginnings and ends put on the grid, moved by at most {most:.3f} quarters"
        )
    if swing.ratio != 1:
        notices.append(f"eighths are read as swung, {swing.ratio.numerator} to {swing.ratio.denominator}")
    events = _events(heard, bars, instrument)
    title = next((m.name for t in file.tracks for m in t if m.type == "track_name" and m.name.strip()), "untitled")
    return Phrase(
        title=title.strip(), events=events, bars=bars, tempo=tempo, tempo_stated=bool(tempos),
        instrument=instrument, swing=swing, notices=tuple(notices),
    )  # fmt: skip


def _paced(
    bars: tuple[Bar, ...], tempos: list[tuple[Fraction, float]], tempo: float, notices: list[str]
) -> tuple[Bar, ...]:
    """Bars with the tempo they take on the whole, as shares of the first; what lies inside a bar is evened out, and said."""
    if len(tempos) < 2:
        return bars
    times = [at for at, _ in tempos]
    made = []
    uneven = 0
    for bar in bars:
        cuts = [bar.start, *(t for t in times if bar.start < t < bar.end), bar.end]
        at = [tempos[max(0, bisect_right(times, a) - 1)][1] for a in cuts[:-1]]
        minutes = sum(float(b - a) / bpm for a, b, bpm in zip(cuts, cuts[1:], at, strict=False))
        made.append(replace(bar, pace=round(float(bar.length) / minutes / tempo, 6)))
        uneven += len(set(at)) > 1
    low, high = min(b.pace for b in made) * tempo, max(b.pace for b in made) * tempo
    notices.append(
        f"its tempo changes from bar to bar, from {low:.4g} to {high:.4g} a minute; ceilings go by {tempo:g}"
    )
    if uneven:
        notices.append(f"tempo changes inside {uneven} {'bar' if uneven == 1 else 'bars'} are evened out over the bar")
    return tuple(made)


def _maps(file: mido.MidiFile) -> tuple[list[tuple[int, float]], list[tuple[int, Metre]]]:
    """Tempos in quarters a minute and metres, in order, with their ticks."""
    tempos: list[tuple[int, float]] = []
    metres: list[tuple[int, Metre]] = []
    for track in file.tracks:
        now = 0
        for message in track:
            now += message.time
            if message.type == "set_tempo" and message.tempo:
                tempo = round(60_000_000 / message.tempo, 3)
                if 10 <= tempo <= 1000:
                    tempos.append((now, tempo))
            elif message.type == "time_signature" and 1 <= message.numerator <= 64 and message.denominator <= 32:
                metres.append((now, Metre(message.numerator, message.denominator)))
    return _changes(sorted(tempos)), sorted(metres, key=lambda m: m[0])


def _changes(tempos: list[tuple[int, float]]) -> list[tuple[int, float]]:
    """Tempos that differ from the one before; of several at once the last."""
    last_at = dict(tempos)
    kept: list[tuple[int, float]] = []
    for at, tempo in last_at.items():
        if not kept or kept[-1][1] != tempo:
            kept.append((at, tempo))
    return kept


def _instrument(track: mido.MidiTrack) -> Instrument | None:
    """The instrument of a track that Dromic wrote: its channels are strings."""
    for message in track:
        if message.type == "text" and message.text.startswith(_TUNING):
            words = message.text[len(_TUNING) :].split()
            if "capo" in words and words[-1].isdecimal() and len(words[-1]) <= 2:
                try:
                    tuning = tuple(note_number(n) for n in words[: words.index("capo")])
                    return presets.instrument_for(tuning, int(words[-1]))
                except DromicError:
                    return None
    return None


def _notes(track: mido.MidiTrack, per: int, instrument: Instrument | None, notices: list[str]) -> list[_Heard]:
    now = dips = 0
    wheels = Wheels()
    channels: list[int] = []
    found: list[_Heard] = []
    open_notes: dict[tuple[int, int], list[_Heard]] = {}
    for message in track:
        now += message.time
        wheels.take(message, now)
        if message.type not in ("note_on", "note_off") or message.channel == DRUMS:
            continue
        at, key = Fraction(now, per), (message.channel, message.note)
        if message.type == "note_on" and message.velocity:
            string = message.channel + 1 - (message.channel > DRUMS)
            placed = instrument is not None and string <= instrument.strings
            heard = _Heard(at, at, message.note, message.velocity, string if placed else None)
            found.append(heard)
            channels.append(message.channel)
            open_notes.setdefault(key, []).append(heard)
        elif open_notes.get(key):
            open_notes[key].pop(0).end = at
    last = Fraction(now, per)
    for waiting in open_notes.values():
        for heard in waiting:
            heard.end = last  # never let go: it sounds to the end
    for heard, channel in zip(found, channels, strict=True):
        start, end = int(heard.onset * per), int(heard.end * per)
        heard.bend, heard.marks = wheels.bend_of(channel, start, end)
        dips += wheels.below(channel, start, end)
    if dips:
        notices.append(f"the pitch wheel takes {dips} {'note' if dips == 1 else 'notes'} below its own pitch; left out")
    return found


def _bars(metres: list[tuple[Fraction, Metre]], end: Fraction, most: int, last: Fraction) -> tuple[Bar, ...]:
    bars: list[Bar] = []
    start, metre = Fraction(0), Metre(4, 4)
    waiting = list(metres)
    while start < end or start <= last or not bars:
        while waiting and waiting[0][0] <= start:
            metre = waiting.pop(0)[1]
        length = metre.length
        if waiting and start < waiting[0][0] < start + length:
            length = waiting[0][0] - start  # a metre that comes in the middle of a bar cuts it short
        if len(bars) >= most:
            raise DromicError(f"it goes on for over {most} bars; cut out the passage to plan")
        bars.append(Bar(len(bars) + 1, start, length, metre))
        start += length
    pickup = len(bars) > 1 and bars[0].length < bars[1].length
    if pickup:
        first, whole = bars[0], bars[1].metre
        bars[0] = Bar(0, first.start, first.length, whole, whole.length - first.length)
        bars[1:] = [Bar(n, b.start, b.length, b.metre) for n, b in enumerate(bars[1:], start=1)]
    return tuple(bars)


def _quantised(heard: list[_Heard], bars: tuple[Bar, ...], tempo: float) -> tuple[list[Fraction], Swing]:
    """Put beginnings and ends on a grid; how far those moved that did, and the swing they were played with. Beginnings that
    lie on a grid exactly stay there; those of a take played by hand are looked at together."""
    lines = [b.start for b in bars]

    def beat_of(time: Fraction) -> Fraction:
        bar = bars[max(0, bisect_right(lines, time) - 1)]
        return bar.start - bar.lead + bar.metre.beat_at(bar.offset_of(time))[1]

    times: dict[Fraction, tuple[list[Fraction], list[Fraction]]] = {}
    for h in heard:
        times.setdefault(beat_of(h.onset), ([], []))[0].append(h.onset)
        times.setdefault(beat_of(h.end), ([], []))[1].append(h.end)
    grids = {beat: _grid(beat, *inside) for beat, inside in times.items()}
    if None in grids.values():
        return _by_hand(heard, bars, tempo)
    moved: list[Fraction] = []
    for h in heard:
        beat = beat_of(h.end)
        step = grids[beat] or Fraction(1, EXACT)
        end = _near(h.end, beat, step)
        if end <= h.onset:
            end = h.onset + (grids[beat_of(h.onset)] or step)
        moved += [abs(end - h.end)] if end != h.end else []
        h.end = end
    return moved, Swing()


def _by_hand(heard: list[_Heard], bars: tuple[Bar, ...], tempo: float) -> tuple[list[Fraction], Swing]:
    """The same for a take that was played: chords, a grid for every beat, swing."""
    beats: list[Fraction] = []
    for bar in bars:
        at = bar.start - bar.lead
        for length in bar.metre.beats():
            if bar.start <= at < bar.end:
                beats.append(at)
            at += length
    beats.append(bars[-1].end)
    if beats[0] > 0:
        beats.insert(0, Fraction(0))
    heard.sort(key=lambda h: (h.onset, h.pitch))
    found = quantise([Played(h.onset, h.end) for h in heard], beats, 60000.0 / tempo)
    for h, (onset, end) in zip(heard, found.times, strict=True):
        h.onset, h.end = onset, end
    return found.moved, found.swing


def _near(time: Fraction, beat: Fraction, step: Fraction) -> Fraction:
    """The nearest time on a grid."""
    return beat + round((time - beat) / step) * step


def _grid(beat: Fraction, onsets: list[Fraction], ends: list[Fraction]) -> Fraction | None:
    """The simplest step that all beginnings in a beat lie on, with all ends if there is one; None where there is none."""
    for times in ((*onsets, *ends), tuple(onsets)):
        for steps in (*GRIDS, EXACT):
            step = Fraction(1, steps)
            if all(_near(t, beat, step) == t for t in times):
                return step
    return None


def _events(heard: list[_Heard], bars: tuple[Bar, ...], instrument: Instrument | None) -> tuple[Event, ...]:
    at: dict[Fraction, dict[tuple[int, int | None], Note]] = {}
    for h in heard:
        fret = h.pitch - instrument.open_pitch(h.string) if instrument and h.string else None
        placed = fret is not None and instrument is not None and 0 <= fret <= instrument.highest_fret
        note = Note(
            h.pitch, h.end - h.onset, h.string if placed else None, fret if placed else None,
            marks=h.marks | (frozenset({"accent"}) if h.velocity >= LOUD and instrument else frozenset()), bend=h.bend,
        )  # fmt: skip
        group = at.setdefault(h.onset, {})
        other = group.get((h.pitch, note.string))
        if other is None or other.duration < note.duration:
            group[h.pitch, note.string] = note
    lines = [b.start for b in bars]
    return tuple(
        Event(
            onset,
            tuple(sorted(group.values(), key=lambda n: (n.pitch, -(n.string or 0)))),
            max(0, bisect_right(lines, onset) - 1),
        )
        for onset, group in sorted(at.items())
    )
