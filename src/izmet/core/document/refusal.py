"""What is said when a wish cannot be granted.

A refusal is never a stack trace and never a silent bend: it names what is wrong,
where, and what the person can do about it. Every layer above turns it into its
own form (JSON, a message beside the handle, a line on the terminal).
"""


class Refusal(Exception):
    """A wish that cannot be granted.

    Args:
        code: stable word for programs, such as ``pin-outside-take``.
        what: one sentence that says what is impossible, and by how much.
        where: the part of the edit or the file that it is about.
        remedy: one sentence that says what to do.
        nearest: the nearest value that works, where there is one.
    """

    def __init__(self, code: str, what: str, where: str = "", remedy: str = "", nearest: float | None = None):
        super().__init__(what)
        self.code = code
        self.what = what
        self.where = where
        self.remedy = remedy
        self.nearest = nearest

    def as_dict(self) -> dict[str, str | float | None]:
        """The refusal as plain JSON values."""
        return {
            "code": self.code,
            "what": self.what,
            "where": self.where,
            "remedy": self.remedy,
            "nearest": self.nearest,
        }

    def __str__(self) -> str:
        place = f"{self.where}: " if self.where else ""
        remedy = f" {self.remedy}" if self.remedy else ""
        return f"{place}{self.what}{remedy}"
