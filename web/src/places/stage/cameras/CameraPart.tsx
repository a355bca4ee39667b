// A part of the camera's panel, and a line in it.
import type { ReactNode } from 'react';
import styles from './CameraPanel.module.css';

export const Line = ({ label, children }: { label: ReactNode; children: ReactNode }) => (
  <div className={styles.lineColumns}>
    <span className={`dim ${styles.label}`}>{label}</span>
    <div className={styles.stack}>{children}</div>
  </div>
);
export const Part = ({ title, children }: { title: string; children: ReactNode }) => (
  <section aria-label={title}>
    <hr className={`hair ${styles.hair}`} />
    <h4>{title}</h4>
    {children}
  </section>
);
