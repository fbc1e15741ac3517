"""Sessions: minutes kept, warm-up first, breaks, something clean kept clean; and what the log says."""

from __future__ import annotations

import tomllib
from dataclasses import replace
from datetime import date, datetime, timedelta

import pytest

from dromic import presets
from dromic.core.drills.drill_kinds import drills_of
from dromic.core.practice.log_pass import Pass
from dromic.core.practice.log_summary import Goal, history_of, next_words, record_of
from dromic.core.practice.session import BREAK, COOL_DOWN, DRILL, KEEP, WARM_UP, chosen, schedule
from dromic.core.practice.skyline import skyline
from dromic.core.practice.spacing import resting
from dromic.core.practice.todays_work import todays_work
from dromic.core.practice.wishes import Wishes, wishes_from
from dromic.core.values.errors import DromicError
from tests.core.drills.test_drills import material_of

NUMBERS = presets.practice().session
TODAY = date(2026, 11, 25)


@pytest.fixture(scope="module")
def material():
    return material_of(2)


@pytest.mark.parametrize("minutes", [5, 10, 15, 30, 60, 120, 240])
def test_a_session_keeps_to_its_minutes_and_begins_slowly(material, minutes):
    made = schedule(drills_of(material), minutes, NUMBERS)
    assert made.minutes <= minutes + 1e-9
    assert made.slots[0].what == WARM_UP and made.slots[0].minutes <= NUMBERS.warm_up_min
    if minutes >= 30:
        assert made.slots[0].minutes == NUMBERS.warm_up_min and made.slots[-1].what == COOL_DOWN
        assert made.minutes > 0.85 * min(minutes, 120)


def test_no_half_hour_without_a_break(material):
    made = schedule(drills_of(material), 120, NUMBERS)
    since = 0.0
    for slot in made.slots:
        since = 0.0 if slot.what == BREAK else since + slot.minutes
        assert since <= 30.0


def test_the_hardest_move_is_always_part_of_it_and_every_kind_comes_before_a_second_of_one(material):
    drills = drills_of(material)
    for minutes in (15, 30, 60):
        kinds = [drills[s.drill].kind for s in schedule(drills, minutes, NUMBERS).slots if s.what == DRILL]
        assert "move" in kinds and len(kinds) == len(set(kinds))


def test_sore_hands_have_less_to_do(material):
    drills = drills_of(material)
    well, sore = (schedule(drills, 60, NUMBERS, soreness=n) for n in (0, 2))
    work = [sum(s.minutes for s in made.slots if s.what == DRILL) for made in (well, sore)]
    assert work[1] < work[0] and any("sore" in words for words in sore.said)


def test_what_is_clean_is_kept_clean_and_what_is_not_comes_first(material):
    drills = drills_of(material)
    names = {d.kind: d.name for d in drills}
    made = schedule(drills, 60, NUMBERS, {names["bar"]: 160.0}, target=164.0)
    kept = [s for s in made.slots if s.what == KEEP]
    assert len(kept) == 1 and drills[kept[0].drill].kind == "bar"
    assert [s.drill for s in made.slots].count(kept[0].drill) == 1


def test_todays_work_follows_the_log(material):
    plan, settings = material.plan, presets.practice()
    fresh = todays_work(plan, settings, today=TODAY)
    first = next(n for n, d in enumerate(fresh.drills) if d.kind == "move")
    drill = fresh.drills[first]
    assert fresh.rungs[first].tempo == pytest.approx(0.45 * plan.request.phrase.tempo)
    one = Pass(datetime(2026, 11, 24, 20), plan.request.phrase.title, drill.name, 100.0, True, fresh.notes_of(drill))
    log = history_of(plan.request.phrase.title, [one])
    later = todays_work(plan, settings, Wishes(), log, TODAY)
    again = next(r for d, r in zip(later.drills, later.rungs, strict=True) if d.name == drill.name)
    assert again.tempo == pytest.approx(93)  # a check at 93 % of what was clean
    sore = todays_work(plan, settings, Wishes(soreness=1), log, TODAY)
    assert next(r for d, r in zip(sore.drills, sore.rungs, strict=True) if d.name == drill.name).tempo == pytest.approx(
        83.7
    )


def test_what_wider_drills_had_clean_counts_for_the_narrower_ones(material):
    """The whole was clean at 150: a move of it begins a little below that, a drill of one hand alone where it began before."""
    plan, settings = material.plan, presets.practice()
    notes = tuple(n.index for n in plan.notes)
    whole = Pass(datetime(2026, 11, 24, 20), plan.request.phrase.title, "whole:0-9", 150.0, True, notes)
    work = todays_work(plan, settings, Wishes(), history_of(plan.request.phrase.title, [whole]), TODAY)
    rung = {d.kind: r for d, r in zip(work.drills, work.rungs, strict=True)}
    assert rung["move"].tempo == rung["bar"].tempo == pytest.approx(0.93 * 150)
    assert rung["hammered"].tempo == pytest.approx(0.45 * plan.request.phrase.tempo)
    part = replace(whole, notes=notes[:2])  # not over every one of its notes
    rested = todays_work(plan, settings, Wishes(), history_of(plan.request.phrase.title, [part]), TODAY)
    bar = next(r for d, r in zip(rested.drills, rested.rungs, strict=True) if d.kind == "bar")
    assert bar.tempo == pytest.approx(0.45 * plan.request.phrase.tempo)


def test_a_tempo_is_what_the_log_keeps_of_it(material):
    """The log keeps tempos to a hundredth: a rung must be what comes back from it, or the sound would begin anew."""
    plan, settings = material.plan, presets.practice()
    work = todays_work(plan, settings, Wishes(target=163.37, clean_to_step=3), today=TODAY)
    for drill, rung in zip(work.drills, work.rungs, strict=True):
        one = Pass(datetime(2026, 11, 25, 19), plan.request.phrase.title, drill.name, round(rung.tempo, 2), True)
        assert work.next_rung(drill, [one], TODAY).tempo == rung.tempo == one.tempo


def test_the_skyline_shows_what_both_hands_have_had_clean(material):
    plan = material.plan
    notes = tuple(n.index for n in plan.notes[:4])
    at = datetime(2026, 11, 24, 20)
    played = [Pass(at, "x", "join:0-3", 90.0, True, notes), Pass(at, "x", "hammered:0-5", 120.0, True, tuple(range(6)))]
    towers = skyline(plan, record_of("x", played).clean_by_note)
    assert [t.clean for t in towers[:6]] == [90.0] * 4 + [None, None]
    ceilings = [t.ceiling for t in towers if t.ceiling is not None]
    assert min(ceilings) >= plan.ceiling * 0.999  # the plan's is the lowest of all


def test_what_slips_is_said_and_comes_next():
    def at(day: int, tempo: float, clean: bool = True, drill: str = "move:1-4") -> Pass:
        return Pass(datetime(2026, 11, day, 20), "x", drill, tempo, clean, (1, 2))

    steady = record_of("x", [at(20, 80), at(22, 84), at(23, 90, drill="bar:0-9")])
    assert not steady.slipping and "holds it back" in next_words(steady, TODAY)[1]
    slipping = record_of("x", [at(20, 100), at(23, 70), at(23, 80, False)])
    drill, why = next_words(slipping, TODAY)
    assert drill == "move:1-4" and "slips" in why and slipping.slipping[0].newest_clean == 70
    assert slipping.missed_days == (date(2026, 11, 21), date(2026, 11, 22))
    assert next_words(record_of("x", []), TODAY)[0] is None
    away = record_of("x", [at(10, 80)])
    assert "15 days" in next_words(away, date(2026, 11, 10) + timedelta(15))[1]


def test_misses_name_the_hand():
    miss = Pass(datetime(2026, 11, 20, 20), "x", "move:1-4", 80.0, False, hand="picking", seconds=30)
    record = record_of("x", [miss, replace(miss, hand="fretting"), miss])
    assert record.blamed == {"picking": 2, "fretting": 1} and record.minutes == {date(2026, 11, 20): 1.5}


def test_a_goal_of_the_phrase_takes_the_place_of_its_tempo(material):
    plan, settings = material.plan, presets.practice()
    log = replace(history_of(plan.request.phrase.title, ()), goal=Goal(100.0))
    assert todays_work(plan, settings, Wishes(), log, TODAY).target == 100
    assert todays_work(plan, settings, Wishes(target=90), log, TODAY).target == 90  # a wish of today goes before it


def test_what_a_player_sets_takes_the_place_of_the_usual_numbers(material):
    wishes = Wishes(90, break_every_min=12, warm_up_min=5, clean_to_step=2)
    work = todays_work(material.plan, presets.practice(), wishes, today=TODAY)
    slots = work.schedule.slots
    assert slots[0].minutes == 5
    since = 0.0
    for slot in slots[1:]:
        since = 0.0 if slot.what == BREAK else since + slot.minutes
        assert since <= 12
    drill = work.drills[0]
    at = datetime(2026, 11, 25, 19)
    once = Pass(at, material.plan.request.phrase.title, drill.name, 60.0, True)
    assert work.next_rung(drill, [once], TODAY).tempo == 60 < work.next_rung(drill, [once, once], TODAY).tempo
    assert wishes_from(wishes.entry()) == wishes and wishes_from({"minutes": "x"}) == wishes_from(3) == Wishes()


def test_what_was_clean_on_several_days_rests_longer_each_time(material):
    plan, settings = material.plan, presets.practice()
    fresh = todays_work(plan, settings, Wishes(20), today=TODAY)
    first = next(s.drill for s in fresh.schedule.slots if s.what == DRILL)
    name, target = fresh.drills[first].name, fresh.target

    def after(days: int, ago: int) -> list[str]:
        passes = [
            Pass(datetime(2026, 11, 25, 19) - timedelta(ago + n), plan.request.phrase.title, name, target, True)
            for n in reversed(range(days))
        ]
        work = todays_work(plan, settings, Wishes(20), history_of(plan.request.phrase.title, passes), TODAY)
        return [work.drills[s.drill].name for s in work.schedule.slots if s.what == DRILL]

    # after one, two, three days clean: due after one, two, four (the settings' own steps)
    assert [name in resting(history_of("x", passes).by_drill, target, settings.session.spacing_days, TODAY) for passes in (
        [Pass(datetime(2026, 11, 24), "x", name, target, True)],
        [Pass(datetime(2026, 11, day), "x", name, target, True) for day in (23, 24)],
        [Pass(datetime(2026, 11, day), "x", name, target, True) for day in (21, 22, 23)],
        [Pass(datetime(2026, 11, day), "x", name, target, True) for day in (19, 20, 21)],
        [Pass(datetime(2026, 11, 24), "x", name, target * 0.5, True)],
    )] == [False, True, True, False, False]  # fmt: skip
    assert name not in after(3, 2) and name in after(0, 0)


def test_one_that_serves_several_goals_comes_before_its_like(material):
    drills = drills_of(material)
    for kind in {d.kind for d in drills}:
        of = [n for n, d in enumerate(drills) if d.kind == kind]
        taken = chosen(drills, 3.0 * len(drills), NUMBERS, {})
        first = next((n for n in chosen([drills[n] for n in of], 3.0, NUMBERS, {})), None)
        assert taken and drills[of[first]].goals == max(drills[n].goals for n in of)
    several = [d for d in drills if d.goals > 1]
    assert several and all(f"{d.goals} of the hard places" in d.reason for d in several)


def test_what_is_played_in_the_background_is_counted_apart():
    one = Pass(datetime(2026, 11, 20, 20), "x", "move:1-4", 80.0, True, (1,), seconds=60)
    record = record_of("x", [one, replace(one, tempo=120.0, attentive=False)])
    assert record.clean_by_note == {1: 80.0} and record.background == 1.0 and record.by_hand == {"both": 2.0}


@pytest.mark.parametrize(
    ("name", "before", "after", "told"),
    [
        ("practice.toml", "clean_to_step = 1", "clean_to_steps = 1", "clean_to_step is missing"),
        ("practice.toml", "check = 0.93", "check = 4.0", "check is 4"),
        ("listen.toml", "late_ms = 18.0", "late_ms = 'soon'", "late_ms must be a number"),
        ("listen.toml", "[live]", "[life]", "life is not a field"),
        ("sound.toml", "knee = 0.75", "knee = 7.5", "knee is 7.5"),
        ("sound.toml", "drop_ms = 18", "drops_ms = 18", "drop_ms is missing"),
    ],
)
def test_a_number_that_is_misspelt_or_out_of_its_range_is_refused_at_load(name, before, after, told, monkeypatch):
    text = (presets.DATA / name).read_text("utf-8").replace(before, after, 1)
    monkeypatch.setattr(presets, "data", lambda asked: tomllib.loads(text))
    load = {"practice.toml": presets.practice, "listen.toml": presets.listening, "sound.toml": presets.sound}[name]
    with pytest.raises(DromicError, match=told):
        load.__wrapped__()
