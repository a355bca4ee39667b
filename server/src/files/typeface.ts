// The house's typeface, for words in pictures and pages: IBM Plex Sans, whose letters lie in several files by script.
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { type Font, openSync } from 'fontkit';

const require = createRequire(import.meta.url);
const SCRIPTS = ['latin', 'latin-ext', 'greek', 'cyrillic', 'cyrillic-ext', 'vietnamese'] as const;
export const WEIGHTS = [400, 500] as const;
export type Weight = (typeof WEIGHTS)[number];

export interface FontFile {
  readonly name: string;
  readonly path: string;
  readonly font: Font;
}
/** Letters that one file has, and where they stand from the beginning, in sizes of the type. */
export interface TextRun {
  readonly text: string;
  readonly file: FontFile;
  readonly x: number;
}

const folder = (): string => join(dirname(require.resolve('@fontsource/ibm-plex-sans/package.json')), 'files');
/** For a page: what a browser takes. */
export const latinFont = (weight: Weight): string => join(folder(), `ibm-plex-sans-latin-${weight}-normal.woff2`);

const loaded = new Map<Weight, readonly FontFile[]>();
function filesOf(weight: Weight): readonly FontFile[] {
  let files = loaded.get(weight);
  if (!files) {
    files = SCRIPTS.map((script) => {
      const name = `ibm-plex-sans-${script}-${weight}-normal`;
      const path = join(folder(), `${name}.woff`);
      return { name, path, font: openSync(path) as Font };
    });
    loaded.set(weight, files);
  }
  return files;
}

/** What no file has becomes a box: that something stands there is seen. */
const MISSING = '□';

export function runsOf(text: string, weight: Weight): { readonly runs: readonly TextRun[]; readonly width: number } {
  const files = filesOf(weight);
  const [latin] = files as readonly [FontFile];
  const runs: { text: string; file: FontFile; x: number }[] = [];
  for (const letter of text.normalize('NFC')) {
    const code = letter.codePointAt(0)!;
    const found = files.find((f) => f.font.hasGlyphForCodePoint(code));
    const last = runs.at(-1);
    const file = found ?? latin;
    const shown = found ? letter : MISSING;
    if (last?.file === file) last.text += shown;
    else runs.push({ text: shown, file, x: 0 });
  }
  let width = 0;
  for (const run of runs) {
    run.x = width;
    width += run.file.font.layout(run.text).advanceWidth / run.file.font.unitsPerEm;
  }
  return { runs, width };
}

/** As an outline, for pictures. @param x and y of the baseline's beginning, px */
export function outlineOf(text: string, weight: Weight, sizePx: number, x: number, y: number): string {
  return runsOf(text, weight)
    .runs.map((run) => {
      const { font } = run.file;
      const scale = sizePx / font.unitsPerEm;
      let at = x + run.x * sizePx;
      return font
        .layout(run.text)
        .glyphs.map((glyph) => {
          const d = glyph.path.scale(scale, -scale).translate(at, y).toSVG();
          at += glyph.advanceWidth * scale;
          return d;
        })
        .join('');
    })
    .join('');
}
