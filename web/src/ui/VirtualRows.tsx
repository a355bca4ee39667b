import type { ReactNode } from 'react';
import styles from './VirtualRows.module.css';

/** As high as all rows of a list of which only those in sight are drawn; they are placed within it. */
export function VirtualRows({ heightPx, children }: { heightPx: number; children: ReactNode }) {
  return (
    <div className={styles.rows} style={{ height: heightPx }}>
      {children}
    </div>
  );
}
