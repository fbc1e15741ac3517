"""The one error a player ever reads: what is wrong, where, and what to do about it."""


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
        return " ".join(sentence.split())
