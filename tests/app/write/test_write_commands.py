"""Every command, in any order, on any phrase: what comes out is a sound phrase, or one sentence says why not."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.app.write.pen import FREE, Pen
from dromic.app.write.write_commands import COMMANDS, WORDS, put_fret, put_name
from dromic.core.editing import edit
from dromic.core.music.songbook import Songbook, empty_phrase
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_songbook, songbook_bytes
from dromic.formats.text.quick_line import parse, write
from tests.examples import examples
from tests.phrases import GUITAR, phrases


def sound(phrase, pen):
    """What must hold of every phrase that can be written."""
    assert parse(write(phrase), phrase, GUITAR).phrase == phrase
    assert read_songbook(songbook_bytes(Songbook.of("x", (phrase,)))).phrases[0] == phrase
    starts = [b.start for b in phrase.bars]
    assert starts == sorted(starts) and all(b.end == n for b, n in zip(phrase.bars, starts[1:], strict=False))
    assert 0 <= pen.at <= phrase.end and FREE <= pen.string <= GUITAR.strings
    for event in phrase.events:
        assert phrase.bars[event.bar].start <= event.onset < phrase.bars[event.bar].end
        strings = [n.string for n in event.notes if n.string is not None]
        assert len(strings) == len(set(strings))


@given(phrases(plain=True), st.lists(st.sampled_from(COMMANDS), max_size=12), st.data())
@examples(150)
def test_any_commands_in_any_order_leave_a_sound_phrase(phrase, commands, data):
    at = data.draw(st.sampled_from([Fraction(0), *(e.onset for e in phrase.events)]))
    pen = Pen(at=at, string=data.draw(st.integers(0, 6)))
    for command in commands:
        if data.draw(st.booleans()):
            try:
                fret = data.draw(st.integers(0, 24))
                phrase = (
                    put_fret(phrase, pen, GUITAR, fret) if pen.string else put_name(phrase, pen, GUITAR, "c", False)
                )
            except DromicError as error:
                assert "\n" not in str(error)
        try:
            phrase, pen = command.act(phrase, pen, GUITAR)
            pen = pen.fitted(phrase, GUITAR.strings)
        except DromicError as error:
            assert "\n" not in str(error) and str(error)
    sound(phrase, pen)


@pytest.mark.parametrize("command", COMMANDS, ids=lambda c: c.name)
def test_every_command_works_on_a_plain_bar(command):
    phrase = parse("6.3:e 5.5 4.7 4.5 5.7 5.5 6.5 6.3 | r:w", empty_phrase("x", GUITAR), GUITAR).phrase
    pen = Pen(at=Fraction(1), string=4)
    try:
        made, after = command.act(phrase, pen, GUITAR)
    except DromicError:
        # 4.7 lies below the open third string, and an octave under it below its own
        assert command.name in ("string-up", "octave-down")
        return
    assert (made, after) != (phrase, pen) or command.name in ("unselect", "length-e", "delete", WORDS)
    sound(made, after.fitted(made, 6))
    assert command.label and command.keys and command.group


@given(phrases(), phrases(plain=True), st.data())
@examples(60)
def test_what_is_pasted_is_there_and_the_rest_is_not_touched(phrase, other, data):
    clip = edit.copied(other, edit.Span(Fraction(0), other.end))
    at = data.draw(st.sampled_from([Fraction(0), phrase.end]))
    made = edit.pasted(phrase, at, clip)
    inside = edit.copied(made, edit.Span(at, at + clip.length, frozenset(n.string for _, n in clip.sounds) or None))
    assert sorted(inside.sounds, key=str) == sorted(clip.sounds, key=str)
    before = [(o, n.pitch) for o, n in edit.sounds_of(phrase) if o < at]
    assert [(o, n.pitch) for o, n in edit.sounds_of(made) if o < at] == before


@given(phrases(), st.data())
@examples(60)
def test_a_cut_passage_keeps_its_notes_and_places(phrase, data):
    times = sorted({Fraction(0), phrase.end, *(b.start for b in phrase.bars), *(e.onset for e in phrase.events)})
    low = data.draw(st.sampled_from([t for t in times if t < phrase.end]))
    high = data.draw(st.sampled_from([t for t in times if t > low]))
    made = edit.cut(phrase, edit.Span(low, high))
    assert made.end == min(high, phrase.end) - low or made.events  # longer only where a note begins at the very end
    kept = [(o - low, n) for o, n in edit.sounds_of(phrase) if low <= o < min(high, phrase.end)]
    assert edit.sounds_of(made) == kept
    for event in made.events:
        bar = made.bars[event.bar]
        old = phrase.bars[phrase.bar_at(event.onset + low)]
        assert bar.number == old.number and bar.offset_of(event.onset) == old.offset_of(event.onset + low)
