// Every panel of the Stage, in the order in which they stand. A new one is an entry here.
import { IconCircleHalf2, IconPhoto } from '@tabler/icons-react';
import { FACET_NAMES, type Facet } from '@variscen/core/looks';
import type { ComponentType, ReactNode } from 'react';
import { FACETS, FacetGlyph } from '../../ui/glyphs.tsx';
import { CameraListPanel } from './cameras/CameraListPanel.tsx';
import { CameraSettingsPanel } from './cameras/CameraSettingsPanel.tsx';
import { ContactStripPanel } from './cameras/ContactStripPanel.tsx';
import { InspectorPanel } from './inspector/InspectorPanel.tsx';
import { MaterialStripPanel } from './options/MaterialStripPanel.tsx';
import { MixerPanel } from './mix/MixerPanel.tsx';
import { OptionsPanel } from './options/OptionsPanel.tsx';
import { PlanViewPanel } from './plan/PlanViewPanel.tsx';
import type { Stage, StagePanelProps } from './stage.ts';
import { TreePanel } from './tree/TreePanel.tsx';
import { ViewPanel } from './view/ViewPanel.tsx';

interface Registered {
  readonly id: string;
  readonly Panel: ComponentType<StagePanelProps>;
}

/** On the left, one at a time, by its tab. */
export interface SidePanel extends Registered {
  readonly label: string;
  /** A number beside the label. */
  readonly count?: (stage: Stage) => number;
  /** Before its tab is opened. */
  readonly onOpen?: (stage: Stage) => void;
}
export const SIDE_PANELS: readonly [SidePanel, ...SidePanel[]] = [
  { id: 'scene', label: 'Scene', Panel: TreePanel },
  {
    id: 'cameras',
    label: 'Cameras',
    count: (stage) => stage.project.cameras.length,
    onOpen: (stage) => stage.selection.deselectObjects(),
    Panel: CameraListPanel,
  },
];

/** In the middle, side by side. */
export interface ViewingPanel extends Registered {
  /** The name of the button that opens and closes it; it is closed at first. Without one it is always there. */
  readonly toggle?: string;
}
export const VIEWING_PANELS: readonly ViewingPanel[] = [
  { id: 'view', Panel: ViewPanel },
  { id: 'plan', toggle: 'Plan view', Panel: PlanViewPanel },
];

/** On the right, the first that has something to show. */
export interface ValuesPanel extends Registered {
  readonly isFor: (stage: Stage) => boolean;
}
export const VALUES_PANELS: readonly ValuesPanel[] = [
  { id: 'mixer', isFor: (stage) => stage.isMixing, Panel: MixerPanel },
  { id: 'camera', isFor: (stage) => stage.settingsOf.length > 0, Panel: CameraSettingsPanel },
  { id: 'values', isFor: () => true, Panel: InspectorPanel },
];

/** Below, one at a time, by its tab. */
export interface StripPanel extends Registered {
  readonly label: string;
  readonly glyph: ReactNode;
  /** It shows the options of this facet: it opens when edits go there. */
  readonly facet?: Facet;
}
export const STRIP_PANELS: readonly StripPanel[] = [
  ...FACETS.map((facet) => ({
    id: facet,
    label: FACET_NAMES[facet],
    glyph: <FacetGlyph facet={facet} />,
    facet,
    Panel: ({ stage }: StagePanelProps) => <OptionsPanel stage={stage} facet={facet} />,
  })),
  { id: 'allCameras', label: 'All cameras', glyph: <IconPhoto size={12} stroke={1.6} />, Panel: ContactStripPanel },
  {
    id: 'allMaterials',
    label: 'All materials',
    glyph: <IconCircleHalf2 size={12} stroke={1.6} />,
    Panel: MaterialStripPanel,
  },
];
