// The words of the application, as the help says them; docs/words.md has all of them.
export const WORDS: readonly (readonly [word: string, is: string])[] = [
  ['facet', 'Lighting, Environment, Materials, Visibility, Placement or Grade'],
  ['option', 'A named set of changes in one facet: of all else it says nothing'],
  ['base', 'The scene with nothing applied; edits of it hold for every variant'],
  ['variant', 'For each facet the base, one option, or several in order'],
  ['patch', 'Changes for one camera only, or for one camera in one variant'],
  ['destination', 'Where your edits go: the sentence at the top says it'],
  ['pending edit', 'Captured in its destination, and not kept yet'],
  ['board, cell', 'Cameras × variants; one camera in one variant'],
  ['profile', 'How well to render, and into which files: Sketch, Proof, Final, and your own'],
  ['batch, trace', 'Cells that are rendered together; one run of the renderer, which may serve several cells'],
  ['render', 'The picture of a cell, with a version: it is never changed'],
  ['up to date', 'Nothing was changed since that its light met'],
  ['leave out, simplify', 'Not load an object for a camera that does not need it; load it with fewer triangles'],
  ['shadow catcher', 'Stands in for a thing of a plate: takes shadow, reflection and light alone'],
  ['develop', 'Show stored light by another grade; nothing is rendered'],
  ['delivery', 'Pictures that were picked, written with a manifest'],
];
