"""The one error a player ever reads: what is wrong, where, and what to do about it."""

MOST_LETTERS = 300
"""of a sentence, which somebody has to read"""


class DromicError(Exception):
    """Bad input or an impossible request, said in one clear sentence.

    `where` names the place inside the file or the field ("bar 3", "string 2"); `path` the file, once known.
    """

    def __init__(self, what: str, *, where: str = "", path: str = "") -> None:
        super().__init__(what)
        self.what = what
        self.where = where
        self.path = path

    def at(self, path: str) -> "DromicError":
        """The same error, with the file it was found in."""
        return type(self)(self.what, where=self.where, path=path)

    def __str__(self) -> str:
        lead = ", ".join(part for part in (self.path, self.where) if part)
        sentence = f"{lead}: {self.what}" if lead else self.what
        whole = " ".join(sentence.split())
        return whole if len(whole) <= MOST_LETTERS else f"{whole[: MOST_LETTERS - 1]}…"

    def __reduce__(self) -> tuple[object, ...]:
        """How it goes to another process: with its place."""
        return _made, (self.what, self.where, self.path)


def _made(what: str, where: str, path: str) -> DromicError:
    return DromicError(what, where=where, path=path)
