"""The front end's pure helpers, called from here: built once by the front end's own builder, run by node."""

from __future__ import annotations

import json
import subprocess
import tempfile
from pathlib import Path
from typing import Any

FRONTEND = Path(__file__).parents[2] / "frontend"
MODULES = (
    "budget",
    "changes",
    "cues",
    "drag",
    "format",
    "handleKeys",
    "lanes",
    "laps",
    "media",
    "names",
    "news",
    "pace",
    "packet",
    "sparse",
    "speedAxis",
)

BUILD = """
import { build } from 'vite'
const [entry, outDir] = process.argv.slice(-2)
await build({
  configFile: 'vite.config.ts', logLevel: 'error',
  build: {
    outDir, emptyOutDir: true, minify: false,
    lib: { entry, formats: ['es'], fileName: () => 'helpers.mjs' },
  },
})
"""

RUN = """
import * as helpers from '%s'
import { createInterface } from 'node:readline'
const kept = new Map()
const revive = (value) => {
  if (!value?.base64) return value
  const bytes = Buffer.from(value.base64, 'base64')
  return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length)
}
const plain = (_, value) => (ArrayBuffer.isView(value) ? Array.from(value) : value)
for await (const line of createInterface({ input: process.stdin })) {
  const { path, args, keep, how } = JSON.parse(line)
  try {
    const given = args.map(revive)
    const names = path.split('.')
    const last = names.pop()
    const owner = names.reduce((found, name) => kept.get(name) ?? found[name], helpers)
    let value
    if (how === 'get') value = owner[last]
    else value = how === 'new' ? new owner[last](...given) : owner[last](...given)
    if (keep) kept.set(keep, value)
    if (value && typeof value[Symbol.iterator] === 'function' && typeof value !== 'string') value = [...value]
    console.log(JSON.stringify({ value: keep ? null : (value ?? null) }, plain))
  } catch (error) {
    console.log(JSON.stringify({ error: String(error.stack) }))
  }
}
"""


class Helpers:
    """A node process that has the helpers; ``call("laps.lapOf", …)`` calls one of them."""

    def __init__(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        folder = Path(self._folder.name)
        entry = folder / "entry.ts"
        entry.write_text("".join(f"export * as {m} from '{FRONTEND}/src/lib/{m}.ts'\n" for m in MODULES))
        build = ["node", "--input-type=module", "-e", BUILD, "--", str(entry), str(folder / "out")]
        subprocess.run(build, cwd=FRONTEND, check=True, timeout=120)
        run = RUN % (folder / "out" / "helpers.mjs")
        self._process = subprocess.Popen(
            ["node", "--input-type=module", "-e", run],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=FRONTEND,
        )  # fmt: skip

    def call(self, path: str, *args: Any, keep: str | None = None, how: str = "call") -> Any:
        """Call a helper, make an object (``how="new"``) or read a property (``"get"``).

        ``keep`` gives the result a name, under which it can be called. An argument
        ``{"base64": …}`` arrives as an ArrayBuffer.
        """
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        asked = {"path": path, "args": args, "keep": keep, "how": how}
        self._process.stdin.write(json.dumps(asked) + "\n")
        self._process.stdin.flush()
        answer = json.loads(self._process.stdout.readline())
        assert "error" not in answer, answer["error"]
        return answer["value"]

    def close(self) -> None:
        self._process.kill()
        self._process.wait()
        self._folder.cleanup()
