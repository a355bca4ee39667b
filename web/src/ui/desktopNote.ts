// Notes on the desktop, where this browser was told that it may show some.
import { say } from './notify.ts';

const KEY = 'variscen.desktop-notes';
const isKnown = (): boolean => 'Notification' in globalThis;

/** refused: the browser does not let this page show any. */
export type DesktopNotes = 'on' | 'off' | 'refused';
export function desktopNotes(): DesktopNotes {
  if (!isKnown() || Notification.permission === 'denied') return 'refused';
  return localStorage.getItem(KEY) === 'on' && Notification.permission === 'granted' ? 'on' : 'off';
}
export async function setDesktopNotes(on: boolean): Promise<DesktopNotes> {
  if (on && isKnown() && Notification.permission === 'default') await Notification.requestPermission();
  localStorage.setItem(KEY, on ? 'on' : 'off');
  return desktopNotes();
}

/** On the page, and on the desktop where that is on and the page is not looked at. */
export function tell(title: string, text: string, tag: string): void {
  say(title, text);
  if (desktopNotes() !== 'on' || document.visibilityState === 'visible') return;
  const note = new Notification(title, { body: text, tag }); // one note a batch, however many windows are open
  note.onclick = () => {
    window.focus();
    note.close();
  };
}
