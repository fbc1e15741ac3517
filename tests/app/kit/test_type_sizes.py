"""Type comes in four sizes, which the theme names: no view sets one of its own, and style sheets name them too."""

import re
from pathlib import Path

from dromic.app.kit import theme

APP = Path(theme.__file__).parent.parent


def test_every_view_takes_its_type_from_the_four_sizes():
    own = re.compile(r"(?<!\.)\bfont\(\d+[,)]|setPixelSize\(\d|setPointSize|font-size: ?\d")
    found = [f"{path.name}: {match}" for path in APP.rglob("*.py") for match in own.findall(path.read_text("utf-8"))]
    assert not found


def test_the_style_knows_no_other_sizes():
    once = {theme.SMALL, theme.BODY, theme.HEAD, theme.BIG}
    large = {2 * size for size in once}  # the large view is the same scale, doubled
    for colours in theme.THEMES.values():
        sizes = {int(size) for size in re.findall(r"font-size: (\d+)px", theme.style_of(colours))}
        assert sizes and sizes <= once | large
        for name in re.findall(r"url\((.*?)\)", theme.style_of(colours)):
            assert Path(name).is_file()
