"""How much a file may hold, whatever its kind: one place that refuses in a sentence what could not be planned anyway."""

from __future__ import annotations

from dromic import presets
from dromic.core.music.phrase import Phrase
from dromic.core.values.errors import DromicError


def limit(name: str) -> int:
    """A number of limits.toml."""
    return int(presets.data("limits.toml")[name])


def check_count(name: str, count: int, what: str, instead: str) -> None:
    """Refuse more of something than its limit."""
    most = limit(name)
    if count > most:
        raise DromicError(f"it holds {count} {what}, and Dromic takes at most {most}; {instead}")


def check_words(title: str, about: str = "") -> None:
    """Refuse words that no window could show."""
    check_count("title_letters", len(title), "letters in a title", "shorten it")
    check_count("about_letters", len(about), "letters of description", "shorten it")


def check_phrase(phrase: Phrase) -> None:
    """Refuse a phrase that is too long to be planned, or that asks to be repeated without end."""
    check_words(phrase.title, phrase.about)
    for section in phrase.sections:
        check_words(section.name)
    check_count("bars", len(phrase.bars), "bars", "split it")
    check_count("events", len(phrase.events), "sounding events", "split it")
    check_count("notes_at_once", max((len(e.notes) for e in phrase.events), default=0), "notes at once", "thin it out")
    turns = max((max(b.repeat_times, *b.endings, 0) for b in phrase.bars), default=0)
    check_count("repeats", turns, "turns of a repeat", "write fewer")
    check_count("quarters", int(phrase.end), "quarter notes of time", "split it")
    check_count("events", phrase.played_events, "sounding events with its repeats played", "write fewer repeats")
