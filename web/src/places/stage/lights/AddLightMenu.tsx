// Adds a light to the look: of which type, and where.
import { Menu } from '@mantine/core';
import { IconBulb } from '@tabler/icons-react';
import type { LightType } from '@variscen/core/scene';
import { LIGHT_TYPES, LIGHT_WORDS } from '../../../model/lightWords.ts';
import styles from './Lights.module.css';
import type { Lights } from './useLights.ts';

/** What each is for, in a few words. */
const USES: Readonly<Record<LightType, string>> = {
  rectangle: 'a soft box, a window',
  disc: 'a round soft box, a beauty dish',
  ball: 'a lantern, a bulb with a surface',
  spot: 'a cone of light',
  point: 'a small bare bulb',
  sun: 'parallel light from far away',
};

export function AddLightMenu({ lights, disabled }: { lights: Lights; disabled: boolean }) {
  return (
    <Menu position="top-end" width={270}>
      <Menu.Target>
        <button
          type="button"
          className={`quiet ${styles.add}`}
          disabled={disabled}
          aria-label="Add a light"
          title="Add a light to the destination: Lighting"
        >
          <IconBulb size={16} stroke={1.6} />
        </button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>Add a light, then click what it should light</Menu.Label>
        {LIGHT_TYPES.map((type) => (
          <Menu.Item key={type} onClick={() => lights.begin(type)}>
            {LIGHT_WORDS[type]} <span className="faint">{USES[type]}</span>
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}
