"""Writes what is generated from the models: docs/openapi.json and docs/edit.schema.json.

``--check`` writes nothing and fails when a file is stale.
"""

import json
import sys
import tempfile
from pathlib import Path

from izmet.core.edit import Edit
from izmet.store.datafolder import DataFolder
from izmet.web.app import create_app

DOCS = Path(__file__).parent.parent / "docs"


def described() -> dict[Path, str]:
    """Each generated file's path and content."""
    with tempfile.TemporaryDirectory() as folder:
        openapi = create_app(DataFolder(Path(folder))).api_doc
    documents = {"openapi.json": openapi, "edit.schema.json": Edit.model_json_schema()}
    return {DOCS / name: json.dumps(value, indent=1) + "\n" for name, value in documents.items()}


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
