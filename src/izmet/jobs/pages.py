"""The pages by themselves that an export comes with: what all of them are made by."""

from __future__ import annotations

from jinja2 import Environment, PackageLoader, select_autoescape

PAGES = Environment(
    loader=PackageLoader("izmet.jobs", "."),
    autoescape=select_autoescape(),
    trim_blocks=True,
    lstrip_blocks=True,
)


def signed(value: float, form: str = "%+.1f") -> str:
    """A number with a minus as it is printed."""
    return (form % value).replace("-", "−")


PAGES.globals["signed"] = signed
