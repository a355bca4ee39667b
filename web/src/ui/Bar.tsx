import styles from './Bar.module.css';

interface BarProps {
  /** 0…1. */
  readonly fraction: number;
  readonly className?: string | undefined;
  /** What screen readers hear; absent: nothing. */
  readonly label?: string | undefined;
}
/** How much of something is done. */
export function Bar({ fraction, className = '', label }: BarProps) {
  const spoken = label ? { role: 'progressbar', 'aria-valuenow': Math.round(fraction * 100), 'aria-label': label } : {};
  return (
    <div className={`${styles.bar} ${className}`} {...spoken}>
      <i style={{ width: `${fraction * 100}%` }} />
    </div>
  );
}
