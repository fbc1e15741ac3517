"""Lists of where both hands meet, and of the notes themselves."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby

from dromic.core.harmony.chords import chords_of
from dromic.core.harmony.musical_keys import key_of, likely_key, place_words
from dromic.core.plan.damping import LABELS, SOUNDS, muting
from dromic.core.plan.kind_words import FRET_KINDS, PICK_KINDS
from dromic.core.plan.plan import Plan
from dromic.core.reports.counts.figures import FIGURE_WORDS, figures
from dromic.core.reports.places.place import Place, PlaceList, place_at
from dromic.core.values.pitch import note_name
from dromic.core.values.vocabulary import UNSTRUCK

_TIGHT = 0.85


def _gaps(plan: Plan) -> Iterator[Place]:
    leads = plan.leads
    for move in plan.onward:
        before, now = leads[move.start], leads[move.to]
        met = [
            words for words, holds in (
                ("a new stroke", before.stroke != now.stroke and "none" not in (before.stroke, now.stroke)),
                ("a new string", before.string != now.string),
                ("a shift", move.fret_kind in ("shift", "slide")),
                ("a slur", now.attack in UNSTRUCK),
            ) if holds
        ]  # fmt: skip
        if len(met) > 1:
            yield place_at(plan, move.to, f"{', '.join(met)} in {move.gap_ms:.0f} ms")


def _tight(plan: Plan) -> Iterator[Place]:
    for move in sorted((m for m in plan.onward if m.load >= _TIGHT), key=lambda m: -m.load):
        kind = (
            PICK_KINDS[move.pick_kind].by if move.hand == "picking" else FRET_KINDS.get(move.fret_kind, move.fret_kind)
        )
        yield place_at(plan, move.to, f"load {move.load:.2f}, {move.hand} hand: {kind}")


def _tones(plan: Plan) -> Iterator[Place]:
    """Every note in its key and its chord."""
    phrase = plan.request.phrase
    key = key_of(phrase.key) if phrase.key else likely_key(phrase)
    chords = chords_of(phrase)
    for note in plan.notes:
        said = f": {place_words(note.pitch, key, chords[note.event])}" if key is not None else ""
        yield Place(note.event, note.index + 1, note.bar_number, f"{note_name(note.pitch)}{said}")


def _figures(plan: Plan) -> Iterator[Place]:
    for figure in figures(plan.request.phrase):
        times = f", {figure.times} times" if figure.times > 1 else ""
        yield place_at(plan, figure.event, f"{figure.words}{times}: {FIGURE_WORDS[figure.name]}")


def _own_words(plan: Plan) -> Iterator[Place]:
    for event, written in enumerate(plan.request.phrase.events):
        doubts = [n for n in written.notes if n.doubt]
        said = [written.words] if written.words else []
        said += [f"doubtful: {note_name(n.pitch)}, or {note_name(n.pitch + n.doubt)}" for n in doubts]
        if said:
            yield place_at(plan, event, "; ".join(said))


def _damping(plan: Plan) -> Iterator[Place]:
    """What damps the idle strings, wherever that changes."""
    before: tuple[str, ...] = ()
    for event, row in enumerate(muting(plan).by):
        if row == before:
            continue
        before = row
        told = [
            f"{' '.join(str(n) for n, by in enumerate(row, start=1) if by == name)} by {words}"
            for name, words in LABELS.items() if name != SOUNDS and name in row
        ]  # fmt: skip
        yield place_at(plan, event, "strings " + "; ".join(told) if told else "no string is idle")


def _bars(plan: Plan) -> Iterator[Place]:
    """What each bar holds."""
    phrase = plan.request.phrase
    for index, bar in enumerate(phrase.bars):
        events = [n for n, e in enumerate(phrase.events) if e.bar == index]
        if not events:
            continue
        stays = [len(list(run)) for _, run in groupby(events, lambda e: plan.leads[e].string)]
        counted_out = f"{' + '.join(map(str, stays))} = {sum(stays)}" if len(stays) > 1 else str(stays[0])
        whole = bar.metre.length
        full = "full" if bar.length == whole else f"{bar.length} of {whole} quarters"
        yield place_at(plan, events[0], f"{bar.metre}, {full}; {counted_out} notes by stay on a string")


BOTH: tuple[PlaceList, ...] = (
    PlaceList("gaps", "What meets in one gap", "a new stroke, a new string, a shift and a slur, two or more at once", _gaps),
    PlaceList("tight", "Near the limit", f"moves with a load of {_TIGHT:g} or more, the tightest first", _tight),
    PlaceList("bars", "Bars", "what each holds, counted by stay on a string", _bars),
    PlaceList("damping", "What damps idle strings", "palm, thumb, fingertips, the underside of a finger, nobody", _damping),
    PlaceList("tones", "Notes in key and chord", "names, degrees, what lies outside, and what each is in its chord", _tones),
    PlaceList("figures", "Figures", "gallops, triplets, couplets, nines at any speed and place, and how they differ", _figures),
    PlaceList("words", "Your words and doubts", "what you wrote at notes, and notes with another reading", _own_words),
)  # fmt: skip
