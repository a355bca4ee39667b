import { describe, expect, it } from 'vitest';
import { actionsOn } from './pageActions.ts';

describe('what can be pressed on a page', () => {
  const page = document.createElement('div');
  page.innerHTML = `
    <nav><button>Undo</button></nav>
    <header><button>Hand over…</button></header>
    <main>
      <button aria-label="Surround: grey"></button>
      <button>Render   2
        cells</button>
      <button disabled>Render nothing</button>
      <button>?</button>
      <button>Hand over…</button>
      <div role="grid"><button>Variant Base</button></div>
    </main>
    <aside><button>Approve</button></aside>`;

  it('is named as it is read, once, and is what may be pressed now', () => {
    const found = actionsOn(page);
    expect(found.map((f) => f.label).sort()).toEqual(['Approve', 'Hand over…', 'Render 2 cells', 'Surround: grey']);
    let pressed = 0;
    page.querySelector('aside button')!.addEventListener('click', () => pressed++);
    const { leads } = found.find((f) => f.label === 'Approve')!;
    if (leads.to === 'press') leads.element.click();
    expect(pressed).toBe(1);
  });
});
