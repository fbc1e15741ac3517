"""ABC tunes: against abc2midi on sixty tunes nobody here wrote, and clause by clause of the ABC music standard 2.1."""

import json
from fractions import Fraction
from pathlib import Path

import music21
import pytest

from dromic.core.music.octaves import AS_FILED, GUITAR, read_as
from dromic.core.values.errors import DromicError
from dromic.formats.abc.abc_read import abc_titles, read_abc
from dromic.formats.table import read

CORPUS = Path(music21.__file__).parent / "corpus"
TUNES = [json.loads(line) for line in (Path(__file__).parents[1] / "data" / "abc_tunes.jsonl").read_text().splitlines()]


@pytest.mark.parametrize("tune", TUNES, ids=[f"{t['file']}-{t['tune']}" for t in TUNES])
def test_a_tune_is_read_as_abc2midi_plays_it(tune):
    """Number, pitches (octaves left out) and onsets in 24ths of a quarter, repeats played. Expected: abc2midi 4.84 (Debian's
    abcmidi), told to play no ornaments; `./run bench --abc` compares the whole collections."""
    phrase = read(CORPUS / tune["collection"] / tune["file"], tune["tune"]).unrolled()
    notes = sorted((e.onset, n.pitch) for e in phrase.events for n in e.notes if "grace" not in n.marks)
    gaps = [int(g) for g in tune["at"].split()]
    times = [sum(gaps[: n + 1]) for n in range(len(gaps))]
    first = notes[0][0]
    found = sorted((round(float(at - first) * 24), pitch % 12) for at, pitch in notes)
    assert found == sorted(zip(times, (int(c, 16) for c in tune["pitches"]), strict=True))


def tune(body, head="M:4/4\nL:1/8\nK:C"):
    """A tune at the pitches it is written at."""
    return read_as(read_abc(f"X:1\nT:t\n{head}\n{body}\n".encode()), AS_FILED)


def heard(phrase):
    """Pitches in playing order, chords as tuples."""
    return [tuple(n.pitch for n in e.notes) if len(e.notes) > 1 else e.notes[0].pitch for e in phrase.unrolled().events]


def lengths(phrase):
    return [str(e.notes[0].duration) for e in phrase.events]


C, D, E, F, G, A, B = 60, 62, 64, 65, 67, 69, 71


@pytest.mark.parametrize(
    ("body", "expected"),
    [
        ("^FGFG ABA=F|F8|", [66, G, 66, G, A, B, A, F, F]),  # an accidental lasts through the bar
        ("^Ff F4|", [66, 78, 66]),  # in every octave (11.3)
        ("^F8-|F4 F4|", [66, F]),  # and through a tie, which goes on into the next bar
        ("C4 [K:D] F4|F8|", [C, 66, 66]),
        ("C4 [r:a note] D4|", [C, D]),
        ("C4 [Q:1/4=90] D4|", [C, D]),
        ("[V:1] CDEF GABc|", [C, D, E, F, G, A, B, 72]),
        ("C8|\nK:G\nF8|", [C, 66]),
        ("[CE]4-[CE]4|", [(C, E)]),
        ("CDEF& c4|G4|", [C, D, E, F, G]),  # what is laid over the bar is left out
        ('C2HD2 ">"E2 uF2|', [C, D, E, F]),  # decorations swallow nothing
        ("+fermata+C4 !accent!D4|", [C, D]),
    ],
)
def test_pitches(body, expected):
    assert heard(tune(body)) == expected


@pytest.mark.parametrize(
    ("body", "expected"),
    [
        ("A>B c<d|", ["3/4", "1/4", "1/4", "3/4"]),
        ("(A>)B A>(B c) A>uB A>.B|", ["3/4", "1/4"] * 2 + ["1/2"] + ["3/4", "1/4"] * 2),
        ('A>{c}B A>"G"B A>!trill!B|', ["5/8", "1/8", "1/4"] + ["3/4", "1/4"] * 2),
        ("A>>B|", ["7/8", "1/8"]),
        ("G>c/B/|", ["1/2", "1/4", "1/4"]),  # of unequal notes none is broken
        ("(3CDE (3:2:2CD (2CD|", ["1/3"] * 5 + ["3/4"] * 2),
        ("(3{F}EDE C|", ["1/8", "5/24", "1/3", "1/3", "1/2"]),
        ("C/D//E3/2F3|", ["1/4", "1/8", "3/4", "3/2"]),
        ("x2 C2 Z|D8|", ["1", "4"]),
    ],
)
def test_lengths(body, expected):
    assert lengths(tune(body)) == expected


@pytest.mark.parametrize(
    ("body", "expected"),
    [
        ("|:C8|[1 D8|E8|F8:|[2 G8|A8|B8|]", [C, D, E, F, C, G, A, B]),  # endings of several bars
        ("|:C8|1 D8:|2 E8|]F8|", [C, D, C, E, F]),
        ("|:C8|D8|\n:|2 E8|]", [C, D, C, D, E]),  # one bar line over two lines
        ("CDEFGABG::A8|B8:|", [C, D, E, F, G, A, B, G] * 2 + [A, B] * 2),  # a capital before ::
        ("|:C8:||:D8:|", [C, C, D, D]),
        ("|::C8::|", [C, C, C]),
        ("|:C8|[1,3 D8:|[2 E8:|[4 F8|]", [C, D, C, E, C, D, C, F]),
        ("C8[|]:|", [C, C]),  # an invisible bar line before the sign
        ("C8||D8:|", [C, D, D]),  # a repeat without a start goes back to the double bar
        ("|:C4 [1 D4:|[2 E4|]", [C, D, C, E]),  # an ending within a bar
        ("|:C8|1 D8:|2 E8|F8|G8:|", [C, D, C, E, F, G, F, G]),  # a second ending nobody closed
    ],
)
def test_repeats(body, expected):
    assert heard(tune(body)) == expected


def test_a_bar_is_as_long_as_it_is_and_numbered_from_one():
    assert [b.number for b in tune("C8|D8|").bars] == [1, 2]
    pickup = tune("C2|D8|E6|]")
    assert [(b.number, str(b.lead)) for b in pickup.bars] == [(0, "3"), (1, "0"), (2, "0")]
    changed = tune("C8|[M:3/4]D6|\nM:6/8\nE6|")
    assert [str(b.metre) for b in changed.bars] == ["4/4", "3/4", "6/8"]


@pytest.mark.parametrize(
    ("head", "expected"),
    [
        ("K:C", "1/2"),  # no M: and no L:
        ("M:2/4\nK:C", "1/4"),  # under three quarters of a whole
        ("M:6/8\nK:C", "1/2"),
        ("M:C|\nL:1/16\nK:C", "1/4"),
        ("M:none\nK:C", "1/2"),
    ],
)
def test_the_length_of_a_note_nobody_wrote(head, expected):
    assert lengths(tune("C", head)) == [expected]


@pytest.mark.parametrize(
    ("key", "sharps"),
    [("D", {6, 1}), ("Bm", {6, 1}), ("Ador", {6}), ("Gmix", set()), ("Elyd", {6, 1, 8, 3, 10}), ("HP", {6, 1}), ("none", set()),
     ("exp ^f", {6}), ("D =c", {6}), ("C clef=bass", set())],
)  # fmt: skip
def test_keys_and_modes(key, sharps):
    """Section 3.1.14."""
    found = {p % 12 for p in heard(tune("CDEFGAB", f"M:4/4\nL:1/8\nK:{key}"))}
    assert {p for p in found if p in (1, 3, 6, 8, 10)} == sharps


@pytest.mark.parametrize(
    ("tempo", "quarters"), [("1/4=90", 90), ("3/8=60", 90), ('"Fast" 1/2=80', 160), ("120", 60), ("1/4 1/8=60", 90)]
)
def test_tempos(tempo, quarters):
    assert tune("C", f"M:4/4\nL:1/8\nQ:{tempo}\nK:C").tempo == quarters


def test_parts_are_played_in_their_order():
    """Section 3.1.9."""
    played = tune("P:A\nC8|\nP:B\nD8:|", "M:4/4\nL:1/8\nP:A2BA\nK:C")
    assert heard(played) == [C, C, D, D, C]
    assert [s.name for s in played.sections] == ["A", "A", "B", "A"] and "A2BA" in played.notices[0]
    written = tune("C8|D8|", "M:4/4\nL:1/8\nP:AB\nK:C")
    assert any("order of parts AB is not played out" in s for s in written.notices)


def test_what_is_not_played_is_said():
    said = tune('C4 "D.C."D4|!fine!E8|P4 F4|').notices
    assert sum("not followed" in s or "not played" in s for s in said) == 2
    assert any("laid over" in s for s in tune("C8&E8|").notices)


def test_bowings_are_strokes_and_accents_stay():
    made = tune("uC vD LE F|")
    assert [n.stroke for e in made.events for n in e.notes] == ["up", "down", None, None]
    assert made.events[2].marked("accent")


def test_a_voice_is_a_part():
    two = b"X:1\nT:t\nM:4/4\nL:1/8\nK:C\nV:1\nC8|\nV:2\nE8|\nV:1\nD8|\n"
    first, second = read_abc(two), read_abc(two, 1, 2)
    assert [len(first.events), len(second.events)] == [2, 1] and "part 1 of 2" in first.notices[0]
    with pytest.raises(DromicError, match="no part 3"):
        read_abc(two, 1, 3)


@pytest.mark.parametrize(
    ("head", "pitch", "how"),
    [
        ("K:C", C, GUITAR),
        ("K:C clef=treble-8", C, AS_FILED),
        ("K:C treble-8", C, AS_FILED),
        ("K:C octave=-1", C, AS_FILED),
        ("K:C transpose=-12", C, AS_FILED),
        ("%%MIDI transpose -12\nK:C", C, AS_FILED),
        ("K:C octave=0", 72, AS_FILED),
    ],
)
def test_the_octave_is_what_the_tune_says_else_a_guitars(head, pitch, how):
    """Sections 3.1.14 and 4.6; a guitar's octave is common practice."""
    made = read_abc(f"X:1\nT:t\nM:4/4\nL:1/8\n{head}\nc8|\n".encode())
    assert (heard(made), made.read_as) == ([pitch], how)
    assert any("read as guitar music" in s for s in made.notices) == (how == GUITAR)


def test_a_tune_too_low_for_a_guitar_an_octave_down_is_read_as_written():
    assert read_abc(b"X:1\nT:t\nK:C\nD,8|\n").read_as == AS_FILED


def test_an_octave_can_be_changed_and_changed_back():
    made = read_abc(b"X:1\nT:t\nK:C\nc8|\n")
    back = read_as(made, AS_FILED)
    assert heard(back) == [72] and back.notices == () and heard(read_as(back, GUITAR)) == [C]
    with pytest.raises(DromicError, match="octave"):
        read_as(read_as(tune("C,,,,,"), AS_FILED), GUITAR)


def test_titles_and_an_empty_line_that_ends_a_tune():
    book = b"X:1\nT: One \nK:C\nC8|\n\nsome words about it\n\nX:2\nK:D\nD8|\n"
    assert abc_titles(book) == ["One", "untitled"]
    assert len(read_abc(book).events) == 1 and read_abc(book).events[0].notes[0].duration == Fraction(4)


@pytest.mark.parametrize(
    ("body", "says"),
    [("C999|", "999 is larger"), ("z8|", "no notes"), ("(3(3(3", "no notes"), ("%%only a comment", "no notes")],
)
def test_what_cannot_be_read_is_one_sentence(body, says):
    with pytest.raises(DromicError, match=says):
        tune(body)
