"""`dromic perform` and `dromic check`, as JSON has them, and what they refuse."""

from __future__ import annotations

import json

import mido
import pytest

from dromic.cli.main import main
from tests.broken import DEMO

NOTE_KEYS = {"index", "due_s", "heard_s", "error_ms", "gap_error_ms", "loudness_db", "cents", "verdict", "sure"}


def told(capsys, *words) -> str:
    assert main([str(w) for w in words]) == 0
    return capsys.readouterr().out


def test_a_take_is_made_with_its_truth_and_checked(capsys, tmp_path):
    wav, truth = tmp_path / "take.wav", tmp_path / "truth.json"
    told(capsys, "perform", DEMO, wav, "--tune", 1, "--seed", 4, "--level", 0.8, "--truth", truth)
    meant = json.loads(truth.read_text())["notes"]
    found = json.loads(told(capsys, "check", DEMO, wav, "--tune", 1, "--json"))
    assert [n["index"] for n in found["notes"]] == [n["index"] for n in meant]
    assert all(set(n) >= NOTE_KEYS for n in found["notes"])
    for note, true in zip(found["notes"], meant, strict=True):
        assert (note["verdict"] == "missed") == (note["heard_s"] is None)
        if true["onset_s"] is not None and note["heard_s"] is not None:
            assert note["heard_s"] == pytest.approx(true["onset_s"], abs=0.02)
    assert {"tempo", "started_s", "confidence", "extra", "evenness", "long_short", "worst", "said"} <= set(found)
    assert all(w["drill"]["tempo"] > 0 and w["notes"] for w in found["worst"])
    assert "notes as they are meant" in told(capsys, "check", DEMO, wav, "--tune", 1)


def test_the_simulated_player_as_planned_is_the_same_twice(capsys, tmp_path):
    for name in ("a.wav", "b.wav"):
        told(capsys, "perform", DEMO, tmp_path / name, "--seed", 2)
    assert (tmp_path / "a.wav").read_bytes() == (tmp_path / "b.wav").read_bytes()
    assert json.loads(told(capsys, "check", DEMO, tmp_path / "a.wav", "--json"))["worst"] == []


def test_a_midi_take_with_a_note_left_out(capsys, tmp_path):
    out = tmp_path / "whole.mid"
    told(capsys, "convert", DEMO, out, "--tune", 3, "--planned")
    assert all(
        n["verdict"] == "ok" for n in json.loads(told(capsys, "check", DEMO, out, "--tune", 3, "--json"))["notes"]
    )
    file = mido.MidiFile(out)
    for track in file.tracks:
        ons = [n for n, m in enumerate(track) if m.type == "note_on" and m.velocity]
        if ons:
            gone = track[ons[10]]
            track[ons[10]] = mido.Message("note_on", note=gone.note, velocity=0, time=gone.time, channel=gone.channel)
    file.save(out)
    found = json.loads(told(capsys, "check", DEMO, out, "--tune", 3, "--json"))
    assert [n["index"] for n in found["notes"] if n["verdict"] == "missed"] == [10]


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (("check", DEMO, DEMO), "no sound file"),
        (("check", DEMO, "/nowhere/take.wav"), "cannot be read"),
        (("perform", DEMO, "/tmp/x.wav", "--level", 2), "between 0 and 1"),
        (("perform", DEMO, "/tmp/x.wav", "--faster", 9), "between 0.3 and 3"),
        (("check", DEMO, DEMO, "--school", "all"), "one plan"),
    ],
)
def test_bad_takes_end_in_one_sentence(capsys, words, sentence):
    assert main([str(w) for w in words]) == 2
    err = capsys.readouterr().err
    assert sentence in err and len(err.splitlines()) == 1
