import { notifications } from '@mantine/notifications';
import { ApiError } from '../api/client.ts';

/** Says what failed and what to do. */
export function sayError(e: unknown): void {
  const known = e instanceof ApiError ? e : undefined;
  if (known?.code === 'CANCELLED') return;
  notifications.show({
    color: 'gray',
    title: known?.message ?? (e instanceof Error ? e.message : String(e)),
    message: known?.remedy ?? '',
    autoClose: false, // it stays until it was read
  });
}
export const say = (title: string, message = ''): void => {
  notifications.show({ color: 'gray', title, message });
};
