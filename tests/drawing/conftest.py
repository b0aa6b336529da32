"""The preview's composer alone, in a page of its own, given the very pixels that are drawn for the file."""

from __future__ import annotations

import base64
import io
import subprocess
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Page

from tests.frontend.helpers import FRONTEND

BUILD = """
import { build } from 'vite'
const [entry, outDir] = process.argv.slice(-2)
await build({
  configFile: false, logLevel: 'error', resolve: { alias: { '@': `${process.cwd()}/src` } },
  build: {
    outDir, emptyOutDir: true, minify: false,
    lib: { entry, name: 'composing', formats: ['iife'], fileName: () => 'all.js' },
  },
})
"""
DRAW = """
async ({ size: [wide, high], files, placed, looks, titles }) => {
  const read = async (file) => createImageBitmap(await (await fetch(`data:image/png;base64,${file}`)).blob())
  const bitmaps = await Promise.all(files.map(read))
  const pictures = placed.map((each) => ({ ...each, bitmap: bitmaps[each.bitmap] ?? null }))
  const letters = titles.map((each) => ({ ...each, bitmap: bitmaps[each.bitmap] }))
  window.composer ??= composing.Composer.make()
  const canvas = new OffscreenCanvas(wide, high)
  const context = canvas.getContext('2d')
  context.drawImage(window.composer.draw(wide, high, pictures, looks, letters), 0, 0)
  const { data } = context.getImageData(0, 0, wide, high)
  let text = ''
  for (const byte of data) text += String.fromCharCode(byte)
  return btoa(text)
}
"""


class Screen:
    """Draws as the preview does."""

    def __init__(self, page: Page) -> None:
        self._page = page

    def drawn(
        self,
        size: tuple[int, int],
        pictures: list[np.ndarray],
        placed: list[dict],
        looks: Sequence[dict] = (),
        titles: Sequence[dict] = (),
    ) -> np.ndarray:
        """What is seen of some pictures in RGB, or with their opacity, shape (high, wide, 3).

        Args:
            placed, looks, titles: as in the front end's ``lib/composer``; a bitmap is the number of a
                picture.
        """
        files = []
        for picture in pictures:
            file = io.BytesIO()
            Image.fromarray(picture).save(file, "png")
            files.append(base64.b64encode(file.getvalue()).decode())
        asked = {"size": size, "files": files, "placed": placed, "looks": looks, "titles": titles}
        data = base64.b64decode(self._page.evaluate(DRAW, asked))
        return np.frombuffer(data, np.uint8).reshape(size[1], size[0], 4)[..., :3].astype(int)


@pytest.fixture(scope="module")
def screen(tmp_path_factory: pytest.TempPathFactory, chromium: Browser) -> Iterator[Screen]:
    built: Path = tmp_path_factory.mktemp("composing")
    entry = FRONTEND / "src" / "lib" / "composer.ts"
    build = ["node", "--input-type=module", "-e", BUILD, "--", str(entry), str(built)]
    subprocess.run(build, cwd=FRONTEND, check=True, timeout=120)
    page = chromium.new_page()
    page.add_script_tag(path=str(built / "all.js"))
    yield Screen(page)
    page.close()
