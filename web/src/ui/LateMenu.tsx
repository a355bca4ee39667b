// The menu of one row of many. A hundred menus that nobody opened take longer to draw than their rows, so it is there
// only while it is open; its button stays.
import { Menu, type MenuProps } from '@mantine/core';
import { type ReactNode, useRef, useState } from 'react';
import styles from './LateMenu.module.css';

interface Props {
  /** What the button is called by those who do not see it. */
  readonly label: string;
  readonly position: NonNullable<MenuProps['position']>;
  readonly children: () => ReactNode;
}

export function LateMenu({ label, position, children }: Props) {
  const [isOpen, setOpen] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  /**
   * A press on the button closes the menu as any press beside it does; the click that follows must not open it again.
   */
  const wasOpen = useRef(false);
  const click = () => {
    setOpen(!wasOpen.current);
    wasOpen.current = false;
  };
  const close = () => {
    setOpen(false);
    button.current?.focus();
  };
  return (
    <div className={styles.place} onPointerDown={(e) => e.stopPropagation()} onClick={(e) => e.stopPropagation()}>
      <button
        ref={button}
        type="button"
        className="tool"
        aria-label={label}
        aria-haspopup="menu"
        aria-expanded={isOpen}
        onPointerDown={() => {
          wasOpen.current = isOpen;
        }}
        onClick={click}
      >
        ⋯
      </button>
      {isOpen && (
        <Menu opened position={position} onClose={close} clickOutsideEvents={['pointerdown']}>
          <Menu.Target>
            <span className={styles.anchor} />
          </Menu.Target>
          <Menu.Dropdown aria-label={label}>{children()}</Menu.Dropdown>
        </Menu>
      )}
    </div>
  );
}
