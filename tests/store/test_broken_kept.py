"""What a player keeps, broken: one sentence, or what of it is sound; never a traceback."""

from __future__ import annotations

import pytest

from dromic.core.values.errors import DromicError
from tests.broken_kept import kept, many_kept, read_kept


def test_the_sound_ones_are_read(tmp_path):
    for name, originals in kept().items():
        for data in originals:
            path = tmp_path / name
            path.unlink(missing_ok=True)
            path.write_bytes(data)
            if not name.startswith("take"):  # two seconds of one are no take
                read_kept(path)


@pytest.mark.parametrize("seed", range(4))
def test_broken_ones_come_to_a_sentence(tmp_path, seed):
    for n, (name, data) in enumerate(many_kept(72, seed + 1000)):
        path = tmp_path / f"{n} {name}"
        path.write_bytes(data)
        try:
            read_kept(path)
        except DromicError as error:
            assert "\n" not in str(error) and len(str(error)) < 400
