"""The user's own folders, where the system wants them: settings, unsaved work, players, the log of faults."""

from __future__ import annotations

from pathlib import Path

NAME = "dromic"


def settings_file() -> Path:
    """The window's state and settings."""
    from platformdirs import user_config_path

    return Path(user_config_path(NAME)) / "window.ini"


def recovery_folder() -> Path:
    """Where unsaved work is kept aside."""
    from platformdirs import user_state_path

    return Path(user_state_path(NAME)) / "recovery"


def data_folder() -> Path:
    """What is the user's own: players, the log of practice."""
    from platformdirs import user_data_path

    return Path(user_data_path(NAME))


def players_folder() -> Path:
    """Where the user's own players are kept."""
    return data_folder() / "players"


def instruments_folder() -> Path:
    """Where the user's own instruments are kept."""
    return data_folder() / "instruments"


def ranking_file() -> Path:
    """What was ranked of collections, so that it is not done again; it can be thrown away."""
    from platformdirs import user_cache_path

    return Path(user_cache_path(NAME)) / "ranked.jsonl"


def fault_log() -> Path:
    """Where faults of Dromic's own are written down."""
    from platformdirs import user_log_path

    return Path(user_log_path(NAME)) / "faults.log"
