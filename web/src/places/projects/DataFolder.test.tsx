import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { show, stubServer, summary } from '../../testing.tsx';
import { DataFolder } from './DataFolder.tsx';
import { DeleteProject } from './DeleteProject.tsx';

const HASH = 'a'.repeat(64);
const storage = { files: 12, bytes: 5e6, unusedFiles: 2, unusedBytes: 1e6, keptDays: 7, freeBytes: 9e9 };

describe('the data folder', () => {
  it('says what nothing refers to and by which rule it is removed, and removes it', async () => {
    const asked = stubServer((what) => {
      if (what === 'GET /api/storage') return storage;
      return what === 'POST /api/storage/remove-unused' ? { files: 2, bytes: 1e6 } : undefined;
    });
    show(<DataFolder />);
    expect(await screen.findByText(/nothing refers to: no project, .* may be removed after 7 days/)).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: /^Remove/ }));
    expect(asked).toContain('POST /api/storage/remove-unused');
  });
  it('names what is not as it was stored', async () => {
    stubServer((what) => {
      if (what === 'GET /api/storage') return { ...storage, unusedFiles: 0 };
      const notSound = [{ hash: HASH, fault: 'damaged', what: 'the mesh “Kettle”', usedBy: ['Tea stall'] }];
      return what === 'POST /api/storage/verify' ? { files: 12, notSound } : undefined;
    });
    show(<DataFolder />);
    expect(await screen.findByText(/Something refers to all of it/)).toBeTruthy();
    expect(screen.queryByRole('button', { name: /^Remove/ })).toBeNull();
    await userEvent.click(screen.getByRole('button', { name: 'Check all files' }));
    const row = await screen.findByRole('row', { name: /Damaged/ });
    expect(row.textContent).toBe('Damagedthe mesh “Kettle”Tea stall');
  });
});

describe('deleting a project', () => {
  it.each([
    ['keep', undefined],
    ['drop', 'Delete too'],
  ] as const)('asks what becomes of the records of its renders: %s', async (records, choice) => {
    const asked = stubServer((what) => (what.startsWith('DELETE') ? { recordsPath: null } : undefined));
    show(<DeleteProject project={summary} onClose={() => undefined} />);
    if (choice) await userEvent.click(await screen.findByLabelText(choice));
    await userEvent.click(await screen.findByRole('button', { name: 'Delete project' }));
    expect(asked.some((what) => what.startsWith('DELETE') && what.includes(`records=${records}`))).toBe(true);
  });
});
