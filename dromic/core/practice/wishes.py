"""What a player asks of practice: how long today, which hand first, which school of tempo, what is left out, how sore hands are."""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields, replace
from typing import Any

from dromic.core.drills.drill import FRETTING, PICKING
from dromic.core.drills.drill_kinds import BY_NAME
from dromic.core.practice.ladder import BEST, SCHOOLS
from dromic.core.setup.practice_settings import PracticeSettings
from dromic.core.values.checks import check_choice, check_range, check_whole
from dromic.core.values.errors import DromicError

MINUTES = 30.0
OWN = {
    "break_every_min": ("session", 5.0, 60.0),
    "warm_up_min": ("session", 0.0, 60.0),
    "clean_to_step": ("ladder", 1.0, 20.0),
}
"""the numbers of practice.toml that a player sets in the window: group, least, most"""


@dataclass(frozen=True, slots=True)
class Wishes:
    """`target` is the tempo worked towards in quarters a minute, None for the phrase's; numbers that may be None are those of
    practice.toml where they are. DromicError for what cannot be asked."""

    minutes: float = MINUTES
    first_hand: str = FRETTING
    school: str = BEST
    without: tuple[str, ...] = ()
    soreness: int = 0
    target: float | None = None
    break_every_min: float | None = None
    warm_up_min: float | None = None
    clean_to_step: float | None = None
    by_ear: bool = False
    """whether passes are marked by listening, where there is an input"""

    def __post_init__(self) -> None:
        check_range("minutes", self.minutes, 1, 600, "minutes")
        check_choice("first hand", self.first_hand, (FRETTING, PICKING))
        check_choice("ladder", self.school, SCHOOLS)
        check_whole("soreness", self.soreness, 0, 3)
        if not isinstance(self.by_ear, bool):
            raise DromicError("whether passes are marked by listening is true or false")
        for name in self.without:
            if name not in BY_NAME:
                raise DromicError(f"there is no kind of drill {name!r:.40}; `dromic drills --kinds` lists them")
        if self.target is not None:
            check_range("target", self.target, 10, 1000, "quarter notes a minute")
        for name, (_, low, high) in OWN.items():
            if getattr(self, name) is not None:
                check_range(name, getattr(self, name), low, high, "")

    def settings(self, usual: PracticeSettings) -> PracticeSettings:
        """The numbers of practice with what this player set otherwise."""
        own = {name: getattr(self, name) for name in OWN if getattr(self, name) is not None}

        def of(group: str) -> dict[str, Any]:
            numbers = getattr(usual, group)  # counts stay whole numbers
            return {name: type(getattr(numbers, name))(n) for name, n in own.items() if OWN[name][0] == group}

        ladder, session = replace(usual.ladder, **of("ladder")), replace(usual.session, **of("session"))
        return replace(usual, ladder=ladder, session=session)

    def with_own(self, name: str, value: float) -> Wishes:
        """The same with one of the numbers of practice set otherwise."""
        return Wishes(**{**{f.name: getattr(self, f.name) for f in fields(self)}, name: value})

    def entry(self) -> dict[str, Any]:
        """What holds from day to day, as a table."""
        return {name: value for name, value in asdict(self).items() if name not in ("soreness", "target")}


def wishes_from(entry: Any) -> Wishes:
    """Wishes from such a table; the usual ones where it holds none, or a wrong one."""
    try:
        known = {k: v for k, v in entry.items() if k in Wishes.__dataclass_fields__ and k not in ("soreness", "target")}
        return Wishes(**{**known, "without": tuple(known.get("without", ()))})
    except (AttributeError, TypeError, ValueError, DromicError):
        return Wishes()
