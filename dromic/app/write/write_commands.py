"""Everything the Write place can do to a phrase: one table with a name, words, keys and what it does.

A command takes the phrase, the pen and the instrument and answers a phrase and a pen; DromicError says why not.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction

from dromic.app.write.pen import FREE, Pen
from dromic.core.editing import edit, edit_bars
from dromic.core.editing.shapes import FRETS, moved
from dromic.core.music.phrase import Note, Phrase
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.note_lengths import BASE_NAMES, BASES, IN_TIME_OF, MOST_DOTS
from dromic.core.values.pitch import STEPS
from dromic.core.values.vocabulary import DOWN, FINGERS, HAMMER, HAMMER_NEW, PICK, PLUCK, PLUCKERS, PULL, SLIDE, TAP, UP

Written = tuple[Phrase, Pen]
Act = Callable[[Phrase, Pen, Instrument], Written]
WORDS = "words"
"""the command that asks before it does something"""
BEND_STEPS = (0.5, 1.0, 2.0, 3.0, 4.0)
"""semitones that the bend key goes through, then none"""
TUPLETS = (0, 3, 5, 6, 7, 9)


@dataclass(frozen=True, slots=True)
class Command:
    name: str
    group: str
    label: str
    keys: tuple[str, ...]
    act: Act


def put_fret(phrase: Phrase, pen: Pen, instrument: Instrument, fret: int) -> Phrase:
    """A note at a fret of the string under the pen, as the note there was sounded if there is one."""
    if pen.string == FREE:
        raise DromicError("this lane takes names (a to g); move to a string to write frets")
    pitch = instrument.pitch_at(pen.string, fret)
    old = pen.under(phrase)
    note = replace(old, pitch=pitch, fret=fret) if old else Note(pitch, pen.length, pen.string, fret)
    return edit.put(phrase, pen.at, note)


def put_name(phrase: Phrase, pen: Pen, instrument: Instrument, letter: str, beside: bool) -> Phrase:
    """A note by name in the free lane, in the octave nearest to the note before it."""
    before = [n.pitch for o, n in edit.sounds_of(phrase) if o < pen.at or (beside and o == pen.at)]
    near = before[-1] if before else instrument.open_pitch(max(1, instrument.strings - 2))
    step = STEPS[letter.upper()]
    pitch = min((12 * octave + step for octave in range(11)), key=lambda p: (abs(p - near), -p))
    return edit.put(phrase, pen.at, Note(min(pitch, 127), pen.length), beside=beside)


def _pen(change: Callable[[Pen], Pen]) -> Act:
    return lambda phrase, pen, instrument: (phrase, change(pen))


def _on_notes(how: Callable[[Phrase, edit.Span], Phrase]) -> Act:
    """What changes notes that are there; says so where there are none."""

    def act(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
        span = pen.span(phrase)
        if not any(span.holds(o, n) for o, n in edit.sounds_of(phrase)):
            raise DromicError("there is no note here to change; put the pen on one, or select some")
        return how(phrase, span), pen

    return act


def _mark(mark: str) -> Act:
    return _on_notes(lambda phrase, span: edit.toggled(phrase, span, mark))


def _state(field: str, value: str) -> Act:
    return _on_notes(lambda phrase, span: edit.stated(phrase, span, field, value))


def _bend(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    def how(note: Note) -> Note:
        higher = next((b for b in BEND_STEPS if b > note.bend), 0.0)
        marks = note.marks | {"bend"} if higher else note.marks - {"bend", "release", "prebend"}
        return replace(note, bend=higher, marks=marks)

    return _on_notes(lambda p, span: edit.change(p, span, how))(phrase, pen, instrument)


def _tremolo(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    def how(note: Note) -> Note:
        beams = {0: 2, 2: 3}.get(note.tremolo, 0)
        return replace(note, tremolo=beams, marks=note.marks | {"tremolo"} if beams else note.marks - {"tremolo"})

    return _on_notes(lambda p, span: edit.change(p, span, how))(phrase, pen, instrument)


def _length(base: str) -> Act:
    def act(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
        return _resized(phrase, replace(pen, base=base, dots=0, tuplet=0), pen)

    return act


def _dot(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    return _resized(phrase, replace(pen, dots=(pen.dots + 1) % (MOST_DOTS + 1)), pen)


def _tuplet(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    choices = [t for t in TUPLETS if not t or t in IN_TIME_OF]
    following = choices[(choices.index(pen.tuplet) + 1) % len(choices)]
    return _resized(phrase, replace(pen, tuplet=following), pen)


def _resized(phrase: Phrase, pen: Pen, before: Pen) -> Written:
    """A new length for the pen, and for the note it stands on."""
    note = before.under(phrase)
    if note is not None and before.anchor is None:
        phrase = edit.put(phrase, pen.at, replace(note, duration=pen.length), beside=True)
    return phrase, pen


def _step_base(by: int) -> Act:
    order = list(BASES)

    def act(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
        index = max(0, min(len(order) - 1, order.index(pen.base) + by))
        return _resized(phrase, replace(pen, base=order[index]), pen)

    return act


def _rest(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    span = pen.selection or edit.Span(pen.at, pen.at + pen.length)
    return edit.erase(phrase, span), pen if pen.selection else pen.moved(phrase, span.end)


def _tie(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    held = edit.held_on(phrase, pen.at, pen.lane, pen.length)
    found = edit.sounding_at(held, pen.at, pen.lane)
    assert found is not None
    return held, pen.moved(held, found[0] + found[1].duration)


def _again(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    before = [e for e in phrase.events if e.onset < pen.at]
    if not before:
        raise DromicError("there is nothing before the pen to write again")
    for note in before[-1].notes:
        phrase = edit.put(phrase, pen.at, replace(note, duration=pen.length), beside=True)
    return phrase, pen.moved(edit.with_room(phrase, pen.at + pen.length), pen.at + pen.length)


def _delete(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    return edit.erase(phrase, pen.span(phrase)), replace(pen, anchor=None)


def _delete_back(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    if pen.selection:
        return _delete(phrase, pen, instrument)
    back = pen.stepped(phrase, forward=False)
    return edit.erase(phrase, edit.Span(back.at, pen.at, frozenset({pen.lane}))), back


def _passage(how: Callable[[Phrase, edit.Span, Instrument], Phrase]) -> Act:
    def act(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
        return how(phrase, pen.passage(phrase), instrument), pen

    return act


def _here(how: Callable[[Phrase, edit.Span, Instrument], Phrase]) -> Act:
    """For the selection, or the note under the pen."""

    def act(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
        return _on_notes(lambda p, span: how(p, span, instrument))(phrase, pen, instrument)

    return act


def _restring(by: int) -> Act:
    def act(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
        made, pen = _here(lambda p, s, i: edit.restrung(p, s, by, i))(phrase, pen, instrument)
        return made, pen if pen.selection else pen.across(instrument.strings, by)

    return act


SHAPES = {"shape-up": -1, "shape-down": 1}
"""commands that move a shape with its frets, and by how many strings"""


def _shape(by: int) -> Act:
    def act(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
        made, pen = _here(lambda p, s, i: moved(p, s, by, 0, FRETS, i).phrase)(phrase, pen, instrument)
        return made, pen if pen.selection else pen.across(instrument.strings, by)

    return act


def _bar_again(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    made = edit_bars.repeated_bar(phrase, phrase.bar_at(pen.at))
    return made, pen.barred(made, forward=True)


def _insert_bar(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    return edit_bars.inserted_bars(phrase, phrase.bar_at(pen.at)), pen


def _delete_bars(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    first, last = pen.bars(phrase)
    made = edit_bars.deleted_bars(phrase, first, last)
    return made, replace(pen, anchor=None).moved(made, phrase.bars[first].start)


def _repeat(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    first, last = pen.bars(phrase)
    times = phrase.bars[last].repeat_times
    following = {0: 2, 2: 3}.get(times, 1)
    return edit_bars.with_repeat(phrase, first, last, following), pen


def _ending(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    first, last = pen.bars(phrase)
    following = {(): (1,), (1,): (2,), (2,): (3,)}.get(phrase.bars[first].endings, ())
    return edit_bars.with_ending(phrase, first, last, following), pen


def _select_all(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    return phrase, replace(pen, anchor=Fraction(0), at=max(Fraction(0), phrase.end - pen.length))


def _select_bar(phrase: Phrase, pen: Pen, instrument: Instrument) -> Written:
    bar = phrase.bars[phrase.bar_at(pen.at)]
    return phrase, replace(pen, anchor=bar.start, at=max(bar.start, bar.end - pen.length))


_MOVES: tuple[tuple[str, str, tuple[str, ...], Act], ...] = (
    ("right", "On by one length", ("Right",), lambda p, n, i: (p, n.stepped(p, True))),
    ("left", "Back by one length", ("Left",), lambda p, n, i: (p, n.stepped(p, False))),
    ("up", "To the string above", ("Up",), lambda p, n, i: (p, n.across(i.strings, -1))),
    ("down", "To the string below", ("Down",), lambda p, n, i: (p, n.across(i.strings, 1))),
    ("next-bar", "To the next bar", ("Ctrl+Right",), lambda p, n, i: (p, n.barred(p, True))),
    ("bar-before", "To the bar before", ("Ctrl+Left",), lambda p, n, i: (p, n.barred(p, False))),
    ("start", "To the start", ("Home",), lambda p, n, i: (p, n.moved(p, Fraction(0)))),
    ("end", "To the end", ("End",), lambda p, n, i: (p, n.moved(p, p.end))),
    ("select-right", "Select onward", ("Shift+Right",), lambda p, n, i: (p, n.stepped(p, True, True))),
    ("select-left", "Select backward", ("Shift+Left",), lambda p, n, i: (p, n.stepped(p, False, True))),
    ("select-bar", "Select the bar", ("Ctrl+L",), _select_bar),
    ("select-all", "Select all", ("Ctrl+A",), _select_all),
    ("unselect", "Select nothing", ("Escape",), _pen(lambda n: replace(n, anchor=None))),
)
_BASE_KEYS = {b: (f"Ctrl+{n}",) for n, b in enumerate(BASES, start=1)}
_SOUNDS: tuple[tuple[str, str, str, Act], ...] = (
    ("hammer", "Hammer-on", "H", _state("attack", HAMMER)),
    ("pull", "Pull-off", "P", _state("attack", PULL)),
    ("slide", "Slide to it", "S", _state("attack", SLIDE)),
    ("hammer-new", "Hammer from nowhere", "N", _state("attack", HAMMER_NEW)),
    ("tap", "Tap", "T", _state("attack", TAP)),
    ("pick", "Struck with the pick; a slide too", "K", _state("attack", PICK)),
    ("pluck", "Plucked by a finger", "F", _state("attack", PLUCK)),
    ("bend", "Bend: ½, 1, 2, 3, 4 semitones, none", "B", _bend),
    ("release", "Bend let down again", "Shift+B", _mark("release")),
    ("prebend", "Bent already when it sounds", "Alt+B", _mark("prebend")),
    ("palm-mute", "Palm mute", "M", _mark("palm-mute")),
    ("dead", "Dead note", "X", _mark("dead")),
    ("accent", "Accent", "A", _mark("accent")),
    ("let-ring", "Let ring", "L", _mark("let-ring")),
    ("vibrato", "Vibrato", "V", _mark("vibrato")),
    ("tremolo", "Tremolo picking", "Shift+V", _tremolo),
    ("grace", "Grace note", "G", _mark("grace")),
    ("harmonic", "Harmonic", "O", _mark("harmonic")),
)

COMMANDS: tuple[Command, ...] = (
    *(Command(f"length-{b}", "Length", BASE_NAMES[b].capitalize(), _BASE_KEYS[b], _length(b)) for b in BASES),
    Command("longer", "Length", "Longer by one", ("]",), _step_base(-1)),
    Command("shorter", "Length", "Shorter by one", ("[",), _step_base(1)),
    Command("dot", "Length", "Dot, two dots, none", (".",), _dot),
    Command("tuplet", "Length", "Tuplet: 3, 5, 6, 7, 9, none", ("Y",), _tuplet),
    Command("tie", "Length", "Hold on (tie)", ("-",), _tie),
    Command("rest", "Length", "Rest", ("R",), _rest),
    *(Command(name, "How it sounds", label, (key,), act) for name, label, key, act in _SOUNDS),
    Command("stroke-down", "Pinned", "Stroke down", ("D",), _state("stroke", DOWN)),
    Command("stroke-up", "Pinned", "Stroke up", ("U",), _state("stroke", UP)),
    *(
        Command(f"pluck-{f}", "Pinned", f"Plucked by {f}", (f"Shift+{f.upper()}",), _state("stroke", f))
        for f in PLUCKERS
    ),
    *(
        Command(f"finger-{f}", "Pinned", "Thumb over the neck" if f == "T" else "Open, no finger" if f == "0" else
                f"Finger {f}", (f"Alt+{f}",), _state("finger", f))
        for f in FINGERS
    ),
    Command(WORDS, "Notes", "Your words here; doubtful…", ("'",), lambda p, n, i: (p, n)),
    Command("again", "Notes", "The last note or chord again", ("C",), _again),
    Command("delete", "Notes", "Delete", ("Delete",), _delete),
    Command("delete-back", "Notes", "Delete backward", ("Backspace",), _delete_back),
    Command("fret-up", "Notes", "Along the neck, up a fret", ("Alt+Right",),
            _here(lambda p, s, i: edit.shifted(p, s, 1, i))),
    Command("fret-down", "Notes", "Along the neck, down a fret", ("Alt+Left",),
            _here(lambda p, s, i: edit.shifted(p, s, -1, i))),
    Command("string-up", "Notes", "Same pitch on the string above", ("Alt+Up",), _restring(-1)),
    Command("string-down", "Notes", "Same pitch on the string below", ("Alt+Down",), _restring(1)),
    Command("shape-up", "Notes", "Same frets on the string above", ("Alt+Shift+Up",), _shape(-1)),
    Command("shape-down", "Notes", "Same frets on the string below", ("Alt+Shift+Down",), _shape(1)),
    Command("semitone-up", "Notes", "Up a semitone", ("Ctrl+Up",), _here(lambda p, s, i: edit.transposed(p, s, 1, i))),
    Command("semitone-down", "Notes", "Down a semitone", ("Ctrl+Down",),
            _here(lambda p, s, i: edit.transposed(p, s, -1, i))),
    Command("octave-up", "Notes", "Up an octave", ("Ctrl+Shift+Up",),
            _here(lambda p, s, i: edit.transposed(p, s, 12, i))),
    Command("octave-down", "Notes", "Down an octave", ("Ctrl+Shift+Down",),
            _here(lambda p, s, i: edit.transposed(p, s, -12, i))),
    Command("turn", "Passage", "Order turned round", ("Ctrl+R",), _passage(lambda p, s, i: edit.turned(p, s))),
    Command("twice-as-long", "Passage", "Twice as long", ("Ctrl+]",),
            _passage(lambda p, s, i: edit.stretched(p, s, Fraction(2)))),
    Command("half-as-long", "Passage", "Half as long", ("Ctrl+[",),
            _passage(lambda p, s, i: edit.stretched(p, s, Fraction(1, 2)))),
    Command("bar-again", "Bars", "The bar again", ("Ctrl+D",), _bar_again),
    Command("insert-bar", "Bars", "Insert a bar", ("Ctrl+B",), _insert_bar),
    Command("delete-bars", "Bars", "Delete bars", ("Ctrl+Shift+B",), _delete_bars),
    Command("repeat", "Bars", "Repeat twice, three times, not", ("Ctrl+J",), _repeat),
    Command("ending", "Bars", "Ending 1, 2, 3, none", ("Ctrl+E",), _ending),
    *(Command(name, "Pen", label, keys, act) for name, label, keys, act in _MOVES),
)  # fmt: skip
COMMAND = {c.name: c for c in COMMANDS}
