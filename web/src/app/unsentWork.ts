// A window is not closed over work that the server does not have yet, without a word.
import { isAnythingUnsent, tryAllNow } from '../session/writeQueue.ts';

export function guardUnsentWork(): () => void {
  const onClose = (e: BeforeUnloadEvent) => {
    if (isAnythingUnsent()) e.preventDefault();
  };
  window.addEventListener('beforeunload', onClose);
  window.addEventListener('online', tryAllNow);
  return () => {
    window.removeEventListener('beforeunload', onClose);
    window.removeEventListener('online', tryAllNow);
  };
}
