"""No file can hurt: whatever it holds, it is a phrase or one sentence of at most 300 letters, soon. Each was found by trying:
it ended in a traceback, took minutes, or took all the memory."""

from __future__ import annotations

import io
import json
import struct
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest

from dromic.cli.main import main
from dromic.core.music.songbook import Songbook
from dromic.core.values.errors import MOST_LETTERS, DromicError
from dromic.core.values.progress import Cancelled
from dromic.formats.document.document import read_songbook, songbook_bytes
from dromic.formats.limits import limit
from dromic.formats.table import read
from dromic.store.reading import Reader, _ReadFile, read_foreign
from tests.build import EIGHTH, phrase
from tests.older import older

LINE = phrase([(3, 5), (3, 7), (2, 5), (1, 5)], EIGHTH)
HUGE = 10**400


def changed(change):
    """A sound document with something in it changed."""
    book = json.loads(songbook_bytes(Songbook.of("x", (LINE,))))
    change(book["entries"][0]["phrase"])
    return json.dumps(book)


def of_note(**what):
    return changed(lambda p: p["bars"][0]["events"][1]["notes"][0].update(what))


def of_bar(**what):
    return changed(lambda p: p["bars"][0].update(what))


def of_phrase(**what):
    return changed(lambda p: p.update(what))


def of_choices(**what):
    book = json.loads(songbook_bytes(Songbook.of("x", (LINE,))))
    book["entries"][0]["choices"] = what
    return json.dumps(book)


def many_events(count):
    notes = [{"pitch": "E4", "for": "1/16"}]
    return of_bar(length=str(count), events=[{"at": f"{n}/16", "notes": notes} for n in range(count)])


DOCUMENTS = {
    "a power of ten": of_note(**{"for": "1e1000000000"}),
    "a small power of ten": of_note(**{"for": "1e-10000000"}),
    "a length with a power": of_bar(length="1e1000000000"),
    "a lead with a power": of_bar(lead="1e1000000000"),
    "a swing with a power": of_phrase(swing={"unit": "1e1000000000", "ratio": "2"}),
    "a long fraction": of_note(**{"for": "9" * 4000}),
    "a huge bend": of_note(bend=HUGE),
    "a huge string": of_note(string=HUGE, fret=HUGE),
    "half a string": of_note(string=1.5, fret=0.5),
    "a huge tempo": of_phrase(tempo=HUGE),
    "an endless tempo": of_phrase(tempo=7).replace('"tempo": 7', '"tempo": 1e999'),
    "no number": of_phrase(tempo=7).replace('"tempo": 7', '"tempo": NaN'),
    "a huge capo": of_phrase(instrument="guitar", capo=HUGE),
    "a school that is a list": of_phrase(school=["x"]),
    "groups in halves": of_bar(metre="7/8", groups=[3.5, 3.5]),
    "words for a repeat": of_bar(repeat_times="x"),
    "an endless repeat": of_bar(repeat_times=10**9),
    "half a letter": of_phrase(title="\ud800"),
    "a title of millions": of_phrase(title="x" * 2_000_000),
    "a section backwards": of_phrase(sections=[{"name": "A", "first_bar": 5, "last_bar": 1}]),
    "a section of words": of_phrase(sections=[{"name": "A", "first_bar": "a", "last_bar": []}]),
    "a bar without a number": of_bar(number=[1]),
    "a note of the far future": changed(lambda p: p["bars"][0]["events"][3].update(at="1000000")),
    "too many events": many_events(25_000),
    "three thousand notes at once": changed(
        lambda p: p["bars"][0]["events"][0].update(notes=[{"pitch": "E4", "for": "1"}] * 3000)
    ),
    "a version of many digits": '{"dromic": ' + "9" * 5000 + "}",
    "a version that is a list": '{"dromic": [3], "kind": "songbook"}',
    "depth": "[" * 100_000,
    "a pin far away": of_choices(pins=[{"event": HUGE, "note": 0, "field": "string", "value": 3}]),
    "a pin before the start": of_choices(pins=[{"event": -5, "note": 0, "field": "string", "value": 3}]),
    "choices that are a list": of_choices(school=["x"]),
    "an unknown choice": of_choices(colour="red"),
    "a stroke of no kind": of_choices(set=[{"event": 1, "stroke": "sideways"}]),
}


def note(inside="", duration="1"):
    return f"<note><pitch><step>E</step><octave>4</octave></pitch><duration>{duration}</duration>{inside}</note>"


def score(notes="", attributes="", after="", bars=1):
    part = "".join(
        f'<measure number="{n}"><attributes><divisions>4</divisions>{attributes}</attributes>{notes or note() * 4}{after}</measure>'
        for n in range(1, bars + 1)
    )
    return (
        '<score-partwise version="4.0"><part-list><score-part id="P1"><part-name>x</part-name></score-part></part-list>'
        f'<part id="P1">{part}</part></score-partwise>'
    ).encode()


def right(inside):
    return f'<barline location="right">{inside}</barline>'


TUNING = "".join(
    f'<staff-tuning line="{n}"><tuning-step>E</tuning-step><tuning-alter>{"9" * 400}</tuning-alter>'
    "<tuning-octave>2</tuning-octave></staff-tuning>" for n in range(1, 7)
)  # fmt: skip
SCORES = {
    "an endless repeat": score(after=right('<repeat direction="backward" times="1000000000"/>')),
    "an endless ending": score(after=right('<ending number="1-1000000000" type="stop"/>')),
    "an endless metre": score(attributes="<time><beats>1000000000</beats><beat-type>4</beat-type></time>"),
    "depth": score(after="<direction>" * 50_000 + "</direction>" * 50_000),
    "a tuning beyond numbers": score(attributes=f"<staff-details>{TUNING}</staff-details>"),
    "too many notes": score(note(duration="1") * 16, bars=400),
}


def track(*events):
    data = b"".join(events) + b"\x00\xff\x2f\x00"
    return b"MThd" + struct.pack(">IHHH", 6, 0, 1, 480) + b"MTrk" + struct.pack(">I", len(data)) + data


def text_event(words):
    return b"\x00\xff\x01" + bytes([0x80 | len(words) >> 7, len(words) & 0x7F]) + words


SOUNDS = b"\x00\x90\x40\x50\x60\x80\x40\x00" * 8
MIDI = {
    "an odd key": track(b"\x00\xff\x59\x02\x40\x05", SOUNDS),
    "a capo of many digits": track(text_event(b"tuning E2 A2 D3 G3 B3 E4 capo " + b"9" * 5000), SOUNDS),
}


def damaged(compression):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", compression) as archive:
        archive.writestr("s.xml", score() * 5)
    raw = bytearray(out.getvalue())
    start = raw.find(b"s.xml") + 14
    raw[start : start + 30] = bytes(range(7, 37))
    return bytes(raw)


def container(encoding):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("META-INF/container.xml", f'<?xml version="1.0" encoding="{encoding}"?><container/>')
        archive.writestr("s.xml", score())
    return out.getvalue()


ARCHIVES = {
    "a damaged stream": damaged(zipfile.ZIP_DEFLATED),
    "another damaged stream": damaged(zipfile.ZIP_LZMA),
    "an unknown encoding": container("bogus-9"),
}
TABS = {"only lines": b"\n" * 3_000_000, "too many rows": b"e|-0-|\n" * 60_000}
FILES = [
    *(
        pytest.param(".dromic", text.encode("utf-8", "surrogatepass"), id=f"songbook: {n}")
        for n, text in DOCUMENTS.items()
    ),
    *(pytest.param(".musicxml", data, id=f"score: {n}") for n, data in SCORES.items()),
    *(pytest.param(".mid", data, id=f"midi: {n}") for n, data in MIDI.items()),
    *(pytest.param(".mxl", data, id=f"archive: {n}") for n, data in ARCHIVES.items()),
    *(pytest.param(".txt", data, id=f"tablature: {n}") for n, data in TABS.items()),
]


@pytest.mark.parametrize(("ending", "data"), FILES)
def test_it_is_a_plan_or_one_sentence(ending, data, tmp_path, capsys):
    path = tmp_path / f"x{ending}"
    path.write_bytes(data)
    status = main(["plan", str(path)])
    told = capsys.readouterr()
    assert status in (0, 2)
    if status == 2:
        assert (
            told.err.count("\n") == 1
            and len(told.err) <= MOST_LETTERS + 20
            and "x" + ending in told.err
            and not told.out
        )


@pytest.mark.parametrize("name", ["a title", "a book's title"])
def test_what_was_read_can_be_written_whatever_letters_it_holds(name):
    book = Songbook.of("\ud800" if name == "a book's title" else "x", (replace(LINE, title="\ud800x"),))
    assert read_songbook(songbook_bytes(book)).phrases[0].events == LINE.events


def test_repeats_count_as_often_as_they_are_played():
    bar = replace(LINE.bars[0], repeat_times=90)
    long = replace(LINE, bars=(bar,), events=tuple(e for e in LINE.events if e.bar == 0))
    assert long.played_events == 90 * len(long.events)
    many = replace(long, bars=(replace(bar, repeat_times=limit("repeats") + 1),))
    with pytest.raises(DromicError, match="turns of a repeat"):
        read_songbook(songbook_bytes(Songbook.of("x", (many,))))


def test_old_documents_are_held_to_the_same():
    book = json.loads(of_note(bend=1.0))
    book["entries"][0]["phrase"]["tempo"] = "fast"
    for version in (1, 2, 3):
        with pytest.raises(DromicError, match=r"phrases\[0\]\.tempo"):
            read_songbook(older(book, version))


@pytest.mark.parametrize(
    ("body", "says"),
    [("CDEF GABc|" * 700, "5001 notes"), ("C|" * 5500, "5001 bars"), ("(" * 210_000 + "C|", "210027 letters")],
)
def test_a_tune_no_tune_is_as_long_as_is_refused_at_once(tmp_path, body, says):
    path = tmp_path / "x.abc"
    path.write_text("X:1\nT:t\nM:4/4\nL:1/8\nK:C\n" + body + "\n")
    with pytest.raises(DromicError, match=f"it holds {says}.*split it"):
        read(path)


@pytest.mark.parametrize("sign", ["(3", "![V:", "{c", "[K:", '"', "+a", "[CE", "(9", "A>", "Z9|", "&"])
def test_signs_that_never_close_keep_nobody_waiting(tmp_path, sign):
    """Nothing looks far ahead: each is read in well under a second, or refused."""
    path = tmp_path / "x.abc"
    path.write_text("X:1\nT:t\nM:4/4\nL:1/8\nK:C\nc|" + sign * (60_000 // len(sign)) + "\n")
    try:
        assert read(path).events
    except DromicError as error:
        assert "split it" in str(error) or "no notes" in str(error)


def test_grace_notes_by_the_thousand_take_no_minutes(tmp_path):
    """The reader asked for the voices of the whole bar at every note."""
    path = tmp_path / "x.musicxml"
    graces = note().replace("<note>", "<note><grace/>").replace("<duration>1</duration>", "")
    path.write_bytes(score(graces * 1500 + note() * 4))
    assert read(path).events


def test_a_reader_beside_the_program_can_be_ended(tmp_path):
    path = tmp_path / "x.abc"
    path.write_text("X:1\nT:t\nM:4/4\nL:1/8\nK:C\nCDEF GABc|\n")
    entry, names = read_foreign(path)
    assert len(entry.phrase.events) == 8 and names == ("t",)
    with pytest.raises(DromicError, match="no tune 7"):
        read_foreign(path, 7)
    reader = Reader()
    looked = []
    stuck = tmp_path / "x.mid"
    stuck.write_bytes(track(SOUNDS))
    with pytest.raises(Cancelled):
        reader.run(_ReadFile(stuck, 1), stuck, 30.0, lambda share: bool(looked.append(share)))
    assert looked and reader._process is None
    assert reader.run(_ReadFile(stuck, 1), stuck, 30.0, lambda share: True)[0].phrase.events  # another is begun
    reader.stop()


def test_settings_of_any_kind_let_the_window_start(qtbot, tmp_path):
    from PyQt6.QtCore import QSettings

    from dromic.app.window.window import MainWindow

    for number, words in enumerate((
        b"\x00\x01garbage" * 400, b"[General]\nrecent=5\n", b"[General]\nrecent=@Variant(\\0\\0\\0\\x8\\0\\0\\0\\0), 5\n",
        b"[General]\ntheme=@ByteArray(xx)\ngeometry=@ByteArray(junk)\nfolder=@Variant(\\0\\0\\0\\x7f)\n",
        b"[keys]\nright=5\ntie=Nonsense+Q\n",
    )):  # fmt: skip
        folder = tmp_path / str(number)
        folder.mkdir()
        (folder / "w.ini").write_bytes(words)
        window = MainWindow(QSettings(str(folder / "w.ini"), QSettings.Format.IniFormat))
        qtbot.addWidget(window)
        window.start()
        window.new_book()
        assert window.files.recent == [] and window.pages.place == "Write"
        window.close()


def test_a_player_file_that_cannot_be_read_is_told_and_the_window_starts(qtbot, tmp_path):
    from PyQt6.QtCore import QSettings

    from dromic.app.window.window import MainWindow

    (tmp_path / "players").mkdir()
    (tmp_path / "players" / "broken.toml").write_text("like=['fluent']\n")
    (tmp_path / "players" / "mine.toml").write_text("label='Mine'\n")
    (tmp_path / "players" / "folder.toml").mkdir()
    window = MainWindow(QSettings(str(tmp_path / "w.ini"), QSettings.Format.IniFormat), players=tmp_path / "players")
    qtbot.addWidget(window)
    window.show()
    assert "broken.toml" in window.notice.text() and "folder.toml" in window.notice.text()
    assert list(window.roster.own) == ["mine"]
    window.close()


PLAYERS = {
    "a like that is a table": "[like]\na=1\n",
    "a label that is a number": "label=5\n",
    "a label of two lines": 'label="a\\nb"\n',
    "digits": f"depth_mm={'9' * 5000}\n",
    "a number beyond all bounds": f"depth_mm={'9' * 400}\n",
    "nesting": "a=" + "[" * 50_000 + "]" * 50_000,
    "several for one": "[picking]\nhop_bit_ms=[10.0,12.0]\n",
    "one for several": "[fretting]\noffsets_mm=5.0\n",
    "none for one": "[judging]\nmemory_ms=[]\n",
    "true for a number": "[judging]\ndial=true\n",
    "a habit that is a list": "[habits]\nhybrid_fingers=['m','a']\n",
    "a habit that is a word": "[habits]\nleft_handed='yes'\n",
    "no weight": "[judging]\npicking_weight=0\nfretting_weight=0\n",
    "too many leans": "[[leans]]\nname='a'\ntilt_deg=10.0\nradius_mm=50.0\n" * 30,
    "names nested without end": ".".join(["a"] * 30_000) + " = 1\n",
    "a name as long as the file": "x" * 60_000 + " = 1\n",
    "a pace of no number": "slower='x'\n",
    "a pace of nothing": "slower=0\n",
}


@pytest.mark.parametrize("name", PLAYERS)
def test_a_player_file_is_a_player_or_one_sentence(name, tmp_path):
    from dromic.presets import player_from_file

    path = Path(tmp_path / "x.toml")
    path.write_text(PLAYERS[name])
    with pytest.raises(DromicError, match=r"^x\.toml: ") as told:
        player_from_file(path)
    assert len(str(told.value)) <= MOST_LETTERS
