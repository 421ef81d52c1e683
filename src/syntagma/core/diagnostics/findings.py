"""What a check has to say: an error, a warning or a remark, with its place and its remedy."""

from typing import NamedTuple

ERROR, WARNING, REMARK = "error", "warning", "remark"


class Finding(NamedTuple):
    """One finding. `place` is what it is about: a slot, a phrase, a limit; blank if it is the whole prompt. `code` names what was
    found, whatever the words (docs/reference/records.md lists them)."""

    kind: str
    message: str
    remedy: str = ""
    place: str = ""
    code: str = ""

    def record(self) -> dict[str, str]:
        """The finding as `--json` gives it, blank parts left out."""
        parts = {"kind": self.kind, "code": self.code, "at": self.place, "message": self.message, "remedy": self.remedy}
        return {key: value for key, value in parts.items() if value}
