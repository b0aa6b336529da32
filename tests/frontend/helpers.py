"""The front end's helpers and stores, called from here: built by the front end's own builder, run by node."""

from __future__ import annotations

import atexit
import json
import shutil
import subprocess
import tempfile
from functools import cache
from pathlib import Path
from typing import Any

FRONTEND = Path(__file__).parents[2] / "frontend"
MODULES = (
    "budget",
    "changes",
    "cues",
    "drag",
    "dryRuns",
    "format",
    "frameClock",
    "handleKeys",
    "lanes",
    "laps",
    "media",
    "names",
    "news",
    "pace",
    "packWorker",
    "packet",
    "pictureClock",
    "relations",
    "rows",
    "sparse",
    "speedAxis",
    "titles",
)
STORES = (
    "stores/compare",
    "stores/edit",
    "stores/layout",
    "stores/library",
    "stores/montage",
    "stores/notices",
    "stores/scope",
    "stores/shelf",
    "stores/view",
)
COMPOSABLES = ("composables/useFlow", "composables/useThumbs")

BUILD = """
import { build } from 'vite'
const [entry, outDir] = process.argv.slice(-2)
await build({
  configFile: 'vite.config.ts', logLevel: 'error',
  resolve: { alias: { pinia: `${process.cwd()}/node_modules/pinia` } },
  build: {
    outDir, emptyOutDir: true, minify: false,
    lib: { entry, formats: ['es'], fileName: () => 'helpers.mjs' },
  },
})
"""

RUN = """
import { createInterface } from 'node:readline'
const [server, built] = process.argv.slice(-2)
// What a browser has and node has not: addresses without a host, and a worker's own end of its channel.
const { fetch: ask, Request: Asked } = globalThis
const isLocal = (address) => typeof address === 'string' && address.startsWith('/')
const full = (address) => (isLocal(address) ? server + address : address)
globalThis.fetch = (address, init) => ask(full(address), init)
globalThis.Request = class extends Asked {
  constructor(address, init) { super(full(address), init) }
}
globalThis.self = globalThis.window = globalThis
globalThis.createImageBitmap = async (blob) => {
  if (!blob.type.startsWith('image/')) throw new Error('no picture')
  return new Uint8Array(await blob.arrayBuffer())
}
const answers = new Map()
globalThis.postMessage = (answer) => answers.get(answer.id)?.(answer)
const worker = {
  ask: (wanted) => new Promise((resolve) => {
    answers.set(wanted.id, resolve)
    self.onmessage({ data: wanted })
  }),
}
const helpers = { worker, ...(await import(built)) }
const kept = new Map()
const revive = (value) => {
  if (value?.kept) return kept.get(value.kept)
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
    const owner = names.reduce((found, name, i) => (i ? null : kept.get(name)) ?? found[name], helpers)
    let value
    if (how === 'get') value = owner[last]
    else if (how === 'set') owner[last] = given[0]
    else value = how === 'new' ? new owner[last](...given) : await owner[last](...given)
    if (keep) kept.set(keep, value)
    if (value && typeof value[Symbol.iterator] === 'function' && typeof value !== 'string') value = [...value]
    console.log(JSON.stringify({ value: keep ? null : (value ?? null) }, plain))
  } catch (error) {
    console.log(JSON.stringify({ error: String(error.stack) }))
  }
}
"""


@cache
def built() -> Path:
    """All of them as one module, built once for the tests of a process."""
    folder = Path(tempfile.mkdtemp())
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    entry = folder / "entry.ts"
    lib = [f"export * as {name} from '{FRONTEND}/src/lib/{name}.ts'" for name in MODULES]
    rest = [f"export * from '{FRONTEND}/src/{path}.ts'" for path in (*STORES, *COMPOSABLES)]
    entry.write_text("\n".join([*lib, *rest, "export { createPinia, setActivePinia } from 'pinia'"]))
    build = ["node", "--input-type=module", "-e", BUILD, "--", str(entry), str(folder / "out")]
    subprocess.run(build, cwd=FRONTEND, check=True, timeout=120)
    return folder / "out" / "helpers.mjs"


class Helpers:
    """A node process that has the helpers; ``call("laps.lapOf", …)`` calls one of them.

    ``server`` is the address that they ask, for those that ask.
    """

    def __init__(self, server: str = "") -> None:
        self._process = subprocess.Popen(
            ["node", "--input-type=module", "-e", RUN, "--", server, str(built())],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=FRONTEND,
        )  # fmt: skip

    def call(self, path: str, *args: Any, keep: str | None = None, how: str = "call") -> Any:
        """Call a helper; or make an object (``how="new"``), read (``"get"``) or set (``"set"``) a property.

        ``keep`` gives the result a name, under which it can be called, or be an argument: ``{"kept": name}``.
        An argument ``{"base64": …}`` arrives as an ArrayBuffer.
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
