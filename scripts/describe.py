"""Writes what is generated from the models: docs/openapi.json, docs/edit.schema.json,
docs/solved.schema.json, terms.json.

``--check`` writes nothing and fails when a file is stale.
"""

import json
import sys
import tempfile
from pathlib import Path
from typing import get_args

from izmet.core.arrange.accents import SETS
from izmet.core.document.cuekinds import CUE_KINDS, LANDED_ON
from izmet.core.document.edit import Edit, MomentKind
from izmet.core.document.limits import MOST_PINS
from izmet.core.document.rates import STANDARD_RATES
from izmet.core.shown.framemap import HOWS
from izmet.core.solved import Solved
from izmet.media.formats import FORMATS
from izmet.picture.lettering import MARGIN
from izmet.store.datafolder import DataFolder
from izmet.web.app import create_app

DOCS = Path(__file__).parent.parent / "docs"
TERMS = DOCS.parent / "frontend/src/api/terms.json"


def described() -> dict[Path, str]:
    """Each generated file's path and content."""
    with tempfile.TemporaryDirectory() as folder:
        openapi = create_app(DataFolder(Path(folder))).api_doc
    terms = {
        "cue_kinds": {kind: each.name for kind, each in CUE_KINDS.items()},
        "landed_on": LANDED_ON,
        "moment_kinds": get_args(MomentKind),
        "hows": HOWS,
        "accent_sets": [{"id": each.id, "name": each.name, "what": each.what} for each in SETS],
        "letters_margin": MARGIN,
        "most_pins": MOST_PINS,
        "rates": [str(rate) for rate in STANDARD_RATES],
        "formats": [
            {
                **{"value": key, "name": each.name, "note": each.note},
                "pictures": each.pictures,
                "qualities": each.qualities,
                "loops": each.loops,
                "ending": each.ending,
                "sound": bool(each.sound),
            }
            for key, each in FORMATS.items()
        ],
    }
    documents = {
        DOCS / "openapi.json": openapi,
        DOCS / "edit.schema.json": Edit.model_json_schema(),
        DOCS / "solved.schema.json": Solved.model_json_schema(mode="serialization"),
        TERMS: terms,
    }
    return {path: json.dumps(value, indent=1) + "\n" for path, value in documents.items()}


def main() -> int:
    stale = [path for path, text in described().items() if not path.exists() or path.read_text() != text]
    for path in stale:
        if "--check" in sys.argv:
            print(f"{path.relative_to(DOCS.parent)} is stale: run `make types`")
        else:
            path.write_text(described()[path])
    return 1 if stale and "--check" in sys.argv else 0


if __name__ == "__main__":
    sys.exit(main())
