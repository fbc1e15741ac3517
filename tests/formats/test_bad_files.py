"""Wrong, empty, truncated and hostile files end in one clear sentence, in no time, with nothing fetched or unpacked."""

import io
import zipfile

import pytest

from dromic.cli.main import main
from dromic.core.values.errors import DromicError
from dromic.formats.table import read
from tests.formats.test_reading import NOTE, score

GOOD = score(NOTE.format(step="C", octave=4, rest=""))
BOMB = '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "lol"><!ENTITY b "&a;&a;&a;&a;">]><score-partwise>&b;</score-partwise>'
OUTSIDE = (
    '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><score-partwise>&a;</score-partwise>'
)


def zipped(members):
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in members.items():
            archive.writestr(name, content)
    return buffer.getvalue()


CONTAINER = '<?xml version="1.0"?><container><rootfiles><rootfile full-path="s.xml"/></rootfiles></container>'
CASES = {
    "empty.musicxml": (b"", "is empty"),
    "cut.musicxml": (GOOD[:-60].encode(), "breaks off"),
    "page.xml": (b"<html><body/></html>", "not a MusicXML score"),
    "bomb.musicxml": (BOMB.encode(), "entities"),
    "outside.xml": (OUTSIDE.encode(), "entities"),
    "timewise.xml": (b"<score-timewise/>", "score-partwise"),
    "rests.xml": (score("<note><rest/><duration>4</duration></note>").encode(), "at least one note"),
    "nopart.xml": (b"<score-partwise><part-list/></score-partwise>", ""),
    "noise.xml": (bytes(range(256)) * 8, ""),
    "noise.mxl": (b"PK\x03\x04" + bytes(range(256)), "damaged"),
    "bomb.mxl": (zipped({"META-INF/container.xml": CONTAINER, "s.xml": b" " * 30_000_000}), "20 MB"),
    "hollow.mxl": (zipped({"readme": "nothing"}), "no score"),
    "cut.mxl": (zipped({"META-INF/container.xml": CONTAINER, "s.xml": GOOD})[:-40], "damaged"),
    "words.abc": (b"this is a letter, not a tune", "K:"),
    "nonotes.abc": (b"X:1\nT:silence\nM:4/4\nK:C\nz4|\n", "note"),
    "cut.mid": (b"MThd", "damaged"),
    "words.txt": (b"e|--0--|", "no tablature"),
    "what.pdf": (b"%PDF", "not a kind"),
    "broken.dromic": (b"{", "not a sound Dromic document"),
    "newer.dromic": (b'{"dromic": 9, "kind": "songbook", "title": "", "phrases": []}', "newer"),
    "wrong.dromic": (b'{"dromic": 1, "kind": "songbook", "title": "x", "phrases": [{"title": "y"}]}', "phrases[0]"),
}


@pytest.mark.parametrize("name", CASES)
def test_one_sentence_and_status_2(tmp_path, name, capsys):
    content, words = CASES[name]
    path = tmp_path / name
    path.write_bytes(content)
    assert main(["plan", str(path)]) == 2
    out, err = capsys.readouterr()
    assert out == ""
    assert err.count("\n") == 1 and name in err and words in err
    assert "Traceback" not in err and len(err) < 400


def test_a_large_file_is_refused_before_it_is_read(tmp_path):
    path = tmp_path / "large.musicxml"
    with path.open("wb") as file:
        file.truncate(21_000_000)
    with pytest.raises(DromicError, match="over 20 MB"):
        read(path)


def test_what_is_not_there_or_cannot_be_read(tmp_path):
    for path, words in ((tmp_path / "no.abc", "does not exist"), (tmp_path, "not a kind")):
        with pytest.raises(DromicError, match=words):
            read(path)
    folder = tmp_path / "folder.abc"
    folder.mkdir()
    with pytest.raises(DromicError, match="is a folder"):
        read(folder)


def test_a_doctype_with_the_public_dtd_is_normal(tmp_path):
    path = tmp_path / "good.musicxml"
    path.write_text(GOOD)
    assert read(path).events[0].notes[0].pitch == 60


@pytest.mark.parametrize(("step", "octave", "words"), [("C", 1, "outside the range"), ("C", 9, "E2 to E6")])
def test_a_pitch_no_string_can_reach(tmp_path, step, octave, words, capsys):
    path = tmp_path / "far.musicxml"
    path.write_text(score(NOTE.format(step=step, octave=octave, rest="")))
    assert main(["plan", str(path)]) == 2
    err = capsys.readouterr().err
    assert words in err and "bar 1" in err
