"""Questions a player asks of a phrase, each answered in words and numbers; every number is an estimate."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from dromic.core.plan.plan import Move, Plan
from dromic.core.plan.request import Request
from dromic.core.questions.changes import tried_unpicked
from dromic.core.questions.ornaments import told_of_ornaments
from dromic.core.reports.ceiling_words import about
from dromic.core.reports.comparison import equally_fast, fastest_words
from dromic.core.reports.explain import SAME_TEMPO, fretting_words, picking_words
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.setup.player import Lean
from dromic.core.setup.player_settings import NUMBERS, HandNumber
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.core.values.vocabulary import DOWN, UP

Lines = tuple[str, ...]
MOST_FACTOR = 1.6
"""an ability is looked for up to so many times what it is now; beyond, it counts as out of reach alone"""
_HALVINGS = 5
COUNT_OF_DEAREST = 3
MOST_SLURS = 3


@dataclass(frozen=True, eq=False)
class Subject:
    """What a question is asked about: the request on Plan, its solution, the target tempo, what has been weighed (label
    and plan), and the other leans by what they do."""

    solved: Solved
    target: float
    weighed: Sequence[tuple[str, Plan | None]]
    leans: Mapping[str, tuple[Lean, ...]]

    @property
    def request(self) -> Request:
        """What is on Plan."""
        return self.solved.request


@dataclass(frozen=True, slots=True)
class Question:
    """A question: its name, how it is put, and the function that answers it in lines."""

    name: str
    text: str
    answer: Callable[[Subject, Progress], Lines]


def _go_on(progress: Progress, share: float) -> None:
    if not progress(share):
        raise Cancelled


def which_is_fastest(asked: Subject, progress: Progress) -> Lines:
    """The schools by ceiling, with what holds the best one back."""
    labels, plans = [label for label, _ in asked.weighed], [p for _, p in asked.weighed]
    alike = equally_fast(plans)
    best = plans[alike[0]] if alike else None
    if best is None:
        return ("No plan has been weighed yet.",)
    slower = sorted(
        ((label, p) for n, (label, p) in enumerate(asked.weighed) if p is not None and n not in alike),
        key=lambda e: -(e[1].ceiling or float("inf")),
    )
    hands = f"in the hands of {best.request.player.label}"
    lines = [f"{labels[alike[0]]}: {about(best.ceiling)} quarters a minute as planned for {asked.target:.0f}, {hands}."]
    if len(alike) > 1:
        lines = [f"{fastest_words(labels, plans)} That is {hands}, in quarters a minute."]
    if best.ceiling is not None and len(alike) == 1:
        worst = max(best.moves, key=lambda m: m.load)
        note = best.events[worst.to][0]
        lines.append(f"What limits it: the {worst.hand} hand at note {note.index + 1} in bar {note.bar_number}.")
    for label, plan in slower[:3]:
        lines.append(f"Then {label}: {about(plan.ceiling)}.")
    refused = [label for label, p in asked.weighed if p is None]
    if refused:
        lines.append(f"Not possible here: {', '.join(refused)}.")
    return tuple(lines)


def what_must_i_be_able_to_do(asked: Subject, progress: Progress) -> Lines:
    """For every ability how far it must come, alone, for the target; the nearest first."""
    now = asked.solved.metrics.ceiling
    if now is None or now >= asked.target:
        return (f"Nothing more: the plan already reaches {about(now)}, and {asked.target:.0f} is asked for.",)
    enough: list[tuple[float, str]] = []
    short: list[tuple[float, str]] = []
    abilities = [n for n in NUMBERS if n.better]
    for n, number in enumerate(abilities):
        _go_on(progress, n / (len(abilities) + len(asked.leans)))
        most = _with(asked, number, MOST_FACTOR, progress)
        if most >= asked.target:
            factor = _factor(asked, number, progress)
            enough.append((factor, f"{_ability_words(asked.request, number, factor)} would do it."))
        elif most - now >= SAME_TEMPO:
            short.append((most, f"{_ability_words(asked.request, number, MOST_FACTOR)} would bring {about(most)}."))
    others = []
    for n, (does, states) in enumerate(asked.leans.items()):
        _go_on(progress, (len(abilities) + n) / (len(abilities) + len(asked.leans)))
        if states != asked.request.player.leans:
            ceiling = _ceiling(replace(asked.request, player=asked.request.player.with_leans(states)), progress)
            if ceiling >= asked.target:
                others.append(f"A lean so that {does} would do it with nothing else changed: {about(ceiling)}.")
    head = (
        f"From {about(now)} to the {asked.target:.0f} asked for, one thing at a time, the plan searched anew each time:"
    )
    if enough or others:
        first, *rest = [*others, *(words for _, words in sorted(enough))]
        return (head, f"Nearest: {first[0].lower()}{first[1:]}", *rest)
    lines = [head, f"No single ability does it, even {100 * (MOST_FACTOR - 1):.0f} % better; {_mixed(asked, progress)}"]
    nearest = sorted(short, reverse=True)[:COUNT_OF_DEAREST]
    return (*lines, *(f"{'Nearest: ' if not n else ''}{words}" for n, (_, words) in enumerate(nearest)))


def nearest_ability(solved: Solved, target: float, progress: Progress) -> tuple[HandNumber, float] | None:
    """The ability that alone would bring a plan to a target with the least growth, and how many times better it must be; None where
    no one ability does."""
    asked = Subject(solved, target, (), {})
    found: list[tuple[float, HandNumber]] = []
    for number in (n for n in NUMBERS if n.better):
        _go_on(progress, 0.5)
        if _with(asked, number, min([MOST_FACTOR, *(f for f, _ in found)]), progress) >= target:
            found.append((_factor(asked, number, progress), number))
    if not found:
        return None
    factor, number = min(found, key=lambda one: one[0])
    return number, factor


def _ceiling(request: Request, progress: Progress) -> float:
    """The ceiling of a request's plan: infinite where nothing limits it, 0 where there is no plan."""
    try:
        return solve(request, progress).metrics.ceiling or float("inf")
    except DromicError:
        return 0.0


def _with(asked: Subject, number: HandNumber, factor: float, progress: Progress) -> float:
    """The ceiling with one ability so many times better; 0 where no hand can be so."""
    try:
        better = number.improved(asked.request.player, factor)
    except DromicError:
        return 0.0
    return _ceiling(replace(asked.request, player=better), progress) if better is not None else 0.0


def _factor(asked: Subject, number: HandNumber, progress: Progress) -> float:
    """By how much an ability must grow, alone, for the target, which the most reaches."""
    low, high = 1.0, MOST_FACTOR
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        reached = _with(asked, number, middle, progress) >= asked.target
        low, high = (low, middle) if reached else (middle, high)
    return high


def _ability_words(request: Request, number: HandNumber, factor: float) -> str:
    now = number.get(request.player)
    wanted = now * factor if number.better > 0 else now / factor
    digits = 0 if number.step >= 1 else 1
    label = number.label[:1].lower() + number.label[1:]
    return f"{100 * (factor - 1):.0f} % better at \u201c{label}\u201d, {wanted:.{digits}f} {number.unit} instead of {now:.{digits}f},"


def _mixed(asked: Subject, progress: Progress) -> str:
    """What everything a little better would bring."""
    player = asked.request.player
    for number in NUMBERS:
        player = number.improved(player) or player
    ceiling = _ceiling(replace(asked.request, player=player), progress)
    return f"with everything a tenth better the ceiling would be {about(ceiling)}."


def which_notes_cost_most(asked: Subject, progress: Progress) -> Lines:
    """The dearest moves, by what both hands' loads add to the objective."""
    plan = judge(asked.solved)
    dial = asked.request.player.judging.dial

    def cost(move: Move) -> float:
        return float((move.pick_load or 0.0) ** dial + move.fret_load**dial)

    total = sum(cost(m) for m in plan.moves)
    lines = []
    for move in sorted(plan.moves, key=cost, reverse=True)[:COUNT_OF_DEAREST]:
        note = plan.events[move.to][0]
        share = 100 * cost(move) / total if total else 0.0
        lines.append(
            f"Note {note.index + 1} in bar {note.bar_number} (string {note.string}, fret {note.fret}): {share:.0f} % of all work. "
            f"Picking hand: {picking_words(move)}. Fretting hand: {fretting_words(move)}."
        )
    return tuple(lines)


def does_a_slur_help(asked: Subject, progress: Progress) -> Lines:
    """Every picked note hammered, pulled or slid instead, one at a time; those that lift the ceiling."""
    plan = judge(asked.solved)
    found: list[tuple[float, float, str]] = []
    count = len(plan.events)
    for event in range(1, count):
        _go_on(progress, event / count)
        if plan.events[event][0].stroke not in (DOWN, UP):
            continue
        for tried in tried_unpicked(asked.solved, event):
            ceiling = tried.solved.metrics.ceiling
            gain = (ceiling or 0.0) - (plan.ceiling or 0.0)
            found.append((gain, plan.cost - tried.solved.cost, f"{tried.change.text}: {about(ceiling)}"))
    helping = sorted((f for f in found if f[0] >= SAME_TEMPO), reverse=True)
    if helping:
        lines = [f"Yes; it is {about(plan.ceiling)} now. The best places:"]
        return (*lines, *(f"{words[:1].upper()}{words[1:]} ({gain:+.0f})." for gain, _, words in helping[:MOST_SLURS]))
    if not found:
        return ("No: no picked note here can be slurred from the note before it on its string.",)
    easing = sorted((f for f in found if f[1] > 0), key=lambda f: -f[1])
    lines = [f"Not for the ceiling: it stays at {about(plan.ceiling)} with any one of the {len(found)} slurs possible."]
    lines += [
        f"It would save most work to {words.split(':')[0]} (cost {saved:.2f} less)." for _, saved, words in easing[:1]
    ]
    return tuple(lines)


def is_the_other_start_better(asked: Subject, progress: Progress) -> Lines:
    """The phrase begun on a down and on an up."""
    found: dict[str, Solved] = {}
    refused: dict[str, str] = {}
    for start in (DOWN, UP):
        _go_on(progress, 0.5)
        try:
            found[start] = solve(replace(asked.request, start=start), progress)
        except DromicError as error:
            refused[start] = str(error)
    lines = [
        f"Started on {'a down' if s == DOWN else 'an up'}: {about(one.metrics.ceiling)}, cost {one.cost:.2f}."
        for s, one in found.items()
    ]
    lines += [f"It cannot start on {'a down' if s == DOWN else 'an up'}: {why}." for s, why in refused.items()]
    if len(found) == 2:
        down, up = (found[s].metrics.ceiling or float("inf") for s in (DOWN, UP))
        dearer = found[DOWN].cost - found[UP].cost
        if abs(up - down) >= SAME_TEMPO:
            lines.insert(
                0, f"{'Yes, the up' if up > down else 'No, the down'}, by {abs(up - down):.0f} quarters a minute."
            )
        elif abs(dearer) > 0.005:
            lines.insert(0, f"The ceiling is the same; the {'up' if dearer > 0 else 'down'} is less work.")
        else:
            lines.insert(0, "It makes no difference here.")
    return tuple(lines)


QUESTIONS: tuple[Question, ...] = (
    Question("fastest", "Which school is fastest for this phrase in these hands?", which_is_fastest),
    Question("abilities", "What must I be able to do to play it at the tempo asked for, and what is nearest?",
             what_must_i_be_able_to_do),
    Question("dearest", "Which three notes cost the most?", which_notes_cost_most),
    Question("slur", "Does an added hammer-on, pull-off or slide help, and where?", does_a_slur_help),
    Question("start", "Is starting on an up-stroke better?", is_the_other_start_better),
    Question("ornaments", "An ornament in one stroke, in two, or with every note struck?",
             lambda asked, progress: told_of_ornaments(asked.solved, progress)),
)  # fmt: skip


def answers(asked: Subject, name: str, progress: Progress = lambda share: True) -> Lines:
    """The answer to a question by its name."""
    return next(q for q in QUESTIONS if q.name == name).answer(asked, progress)
