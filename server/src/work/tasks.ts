// Heavy work of the server, done in a process of its own: nothing here runs on the HTTP thread.
import type { DeliveredFile, DeliveredPicture, DeliveryFormat } from '@variscen/contract';
import type { PartsReached, StandIn } from '@variscen/core/cull';
import type { FileKind, Profile } from '@variscen/core/plan';
import type { Display, Grade, ShownObject } from '@variscen/core/image';
import type { Inputs, Change } from '@variscen/core/looks';
import type {
  CameraSettings,
  HandMatch,
  ImportReport,
  MaterialVariant,
  NamedCamera,
  SceneMatch,
} from '@variscen/core/scene';
import type { MemoryBytes } from '@variscen/engine';
import type { SheetBackground, SheetContent, SheetPage } from '@variscen/core/sheet';
import type { PictureSource } from '../files/developed.ts';
import type { FilmFrame, FilmOutcome } from '../files/film.ts';
import type { NotSound } from './looksTasks.ts';

export interface ImportTask {
  readonly kind: 'import';
  readonly assets: string;
  readonly file: string;
  readonly fileName: string;
  /** Where it puts what it makes until it is whole; whoever asked drops it. */
  readonly stage: string;
  readonly metresPerUnit?: number;
}
/** With all that the project takes from a scene, so that the HTTP thread never reads one. */
export interface ImportOutcome {
  readonly sceneHash: string;
  readonly report: ImportReport;
  readonly cameras: readonly NamedCamera[];
  /** Sees everything, for a scene without cameras. */
  readonly whole: CameraSettings;
  readonly variants: readonly MaterialVariant[];
}

/** An HDR or EXR picture into a stored map. */
export interface EnvironmentTask {
  readonly kind: 'environment';
  readonly assets: string;
  readonly file: string;
  readonly fileName: string;
}
export interface EnvironmentOutcome {
  readonly hash: string;
  readonly width: number;
  readonly height: number;
  readonly remarks: readonly string[];
}

/** A .cube table into a stored one. */
export interface LutTask {
  readonly kind: 'lut';
  readonly assets: string;
  readonly file: string;
  readonly fileName: string;
}
export interface LutOutcome {
  readonly hash: string;
  readonly size: number;
}

/** A picture that a camera is matched against or that a material shows. */
export interface PlateTask {
  readonly kind: 'plate';
  readonly assets: string;
  readonly file: string;
  readonly fileName: string;
}
export interface PlateOutcome {
  readonly hash: string;
  readonly name: string;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly mediaType: string;
}

/** A picture of others, checked and kept as it is looked at. */
export interface ReferenceTask {
  readonly kind: 'reference';
  readonly assets: string;
  readonly file: string;
  readonly fileName: string;
}
export interface ReferenceOutcome {
  readonly hash: string;
  readonly widthPx: number;
  readonly heightPx: number;
  /** An OpenEXR file; else a picture as a screen shows it. */
  readonly isLinear: boolean;
  readonly remarks: readonly string[];
}

/** A scene with options of Materials as variants, into a file. */
export interface ExportTask {
  readonly kind: 'export';
  readonly assets: string;
  readonly sceneHash: string;
  readonly base: readonly Change[];
  readonly options: readonly { readonly name: string; readonly changes: readonly Change[] }[];
  readonly file: string;
}
export interface ExportOutcome {
  readonly bytes: number;
}

/**
 * What a newer scene holds of the known ones (hashes, the present one first); “revise” also writes it under their
 * identities.
 */
export interface MatchTask {
  readonly kind: 'match' | 'revise';
  readonly assets: string;
  readonly known: readonly string[];
  readonly after: string;
  readonly byHand: readonly HandMatch[];
}
export interface MatchOutcome {
  readonly match: SceneMatch;
  readonly cameras: readonly NamedCamera[];
  readonly camerasBefore: readonly NamedCamera[];
}

/** A look at the whole scene from a camera, at some of its frames. */
export interface ProbeTask {
  readonly kind: 'probe';
  readonly assets: string;
  readonly sceneHash: string;
  readonly changes: readonly Change[];
  readonly cameras: readonly CameraSettings[];
  /** All frames of which these are some; one at least. */
  readonly frames: readonly number[];
  /** Where meshes and textures are kept as they are loaded, and how much of them. */
  readonly folder: string;
  readonly mostPartsBytes: number;
  /** What was found is written here, as CullEvidence. */
  readonly file: string;
  readonly budgetBytes: number;
}

/** What the look itself took. */
export interface ProbeOutcome {
  readonly seconds: number;
  readonly lightPaths: number;
  /** null where it is not known. */
  readonly reached: PartsReached | null;
}

/** What one camera needs in a look, as GLB. */
export interface SplitTask {
  readonly kind: 'split';
  readonly assets: string;
  readonly sceneHash: string;
  readonly changes: readonly Change[];
  readonly cameraName: string;
  /** At some of its frames; the file is as the first has it. */
  readonly cameras: readonly CameraSettings[];
  /** A file of evidence: what no ray met is not needed; null: not measured. */
  readonly evidence: string | null;
  /** What was measured is of all its frames, not of some that stand for all. */
  readonly isEveryFrameMeasured: boolean;
  readonly file: string;
}
export interface SplitOutcome {
  readonly bytes: number;
  readonly objects: number;
  readonly ofObjects: number;
  /** Of those objects as they are placed, and how many of them are in the file. */
  readonly triangles: number;
  readonly ofTriangles: number;
}

/** Meshes that may be simplified: what they take then. */
export interface StandInsTask {
  readonly kind: 'standIns';
  readonly assets: string;
  readonly sceneHash: string;
  /** Hashes of meshes, and the exponents of how far off they may be. */
  readonly wanted: readonly (readonly [blob: string, exponent: number])[];
}
/** In the order in which they were asked for; null: it is not worth it. */
export type StandInsOutcome = readonly (StandIn | null)[];

/** The whole scene held against what a camera leaves of it. */
export interface ProofTask extends Omit<ProbeTask, 'kind' | 'cameras' | 'frames'> {
  readonly kind: 'proof';
  readonly camera: CameraSettings;
}

export interface PlanTask {
  readonly kind: 'plan';
  readonly assets: string;
  readonly sceneHash: string;
  readonly threads: number;
  readonly budgetBytes: number;
  /** What a node's process takes with nothing to do; null: not measured yet. */
  readonly processRestBytes: number | null;
  /** Content that is gone or damaged. */
  readonly notSound: readonly string[];
  readonly traces: readonly {
    readonly profile: Profile;
    readonly camera: Inputs['camera'];
    readonly changes: readonly Change[];
    /** Of each of its lightings, where there are several: then changes have the sources of all. */
    readonly lightings?: readonly (readonly Change[])[] | undefined;
    readonly widthPx: number;
    readonly heightPx: number;
  }[];
}
export interface PlannedTrace {
  readonly bytes: MemoryBytes;
  readonly totalBytes: number;
  readonly bytesWithoutCulling: MemoryBytes;
  readonly totalBytesWithoutCulling: number;
  /** Beside the engine; null: not measured yet. */
  readonly processBytes: number | null;
  /** Of its lightings those in which nothing gives light; whether something of it may be in the frame. */
  readonly unlit: readonly number[];
  readonly isSeen: boolean;
  readonly objects: number;
  readonly dropped: readonly string[];
  readonly droppedCount: number;
  readonly simplifiedCount: number;
  readonly inPartCount: number;
  readonly culls: boolean;
  /** Meshes whose displacement the limit of triangles ended early. */
  readonly limited: readonly string[];
  /** Lamps that give no light, and what they stand in, by name. */
  readonly trapped: readonly { readonly lamp: string; readonly glass: string }[];
  /** What of the scene that it needs is gone or damaged, in words. */
  readonly missing: readonly string[];
  /** Said where the job cannot be held at all; and where so little of it can that it may never end. */
  readonly refusal: string | null;
  readonly tight: string | null;
  /** What of it is loaded part by part takes, all together; so much of that there is no room for. */
  readonly partsBytes: number;
  readonly turnsBytes: number;
}
/** Whether content is as it was stored. */
export interface VerifyTask {
  readonly kind: 'verify';
  readonly assets: string;
  readonly hashes: readonly string[];
}
export interface VerifyOutcome {
  readonly notSound: readonly NotSound[];
}
/** A picture and its light groups, made smaller. */
export interface LightPictureTask {
  readonly kind: 'lightPicture';
  /** OpenEXR files: the picture, and its light groups where they have one of their own. */
  readonly picture: string;
  readonly groups: string | null;
  readonly mostWidthPx: number;
  readonly file: string;
}
/** What covers a pixel of a picture, by the ids of its OpenEXR file. */
export interface ObjectsAtTask {
  readonly kind: 'objectsAt';
  readonly path: string;
  /** In shares of its width and height. */
  readonly at: readonly [number, number];
}
/** Where an object is in a picture, as a PNG that is black where it is not. */
export interface ObjectMaskTask {
  readonly kind: 'objectMask';
  readonly path: string;
  readonly object: string;
  readonly file: string;
}
/** A picture's tiles, from a layer of its OpenEXR file or from what a screen is shown of it. */
export interface TilesTask {
  readonly kind: 'tiles';
  readonly source:
    | { readonly kind: 'exr'; readonly path: string; readonly layer: string }
    | { readonly kind: 'shown'; readonly path: string };
  readonly file: string;
}
/** A contact sheet. */
export interface SheetTask {
  readonly kind: 'sheet';
  readonly format: 'pdf' | 'png';
  readonly background: SheetBackground;
  readonly page: SheetPage;
  /** Of a PNG. */
  readonly widthPx: number;
  readonly content: SheetContent;
  /** Of its pictures, in their order. */
  readonly sources: readonly PictureSource[];
  readonly assets: string;
  readonly file: string;
}
/** A picture's files for a screen, from its stored light by another grade. */
export interface DevelopTask {
  readonly kind: 'develop';
  /** The OpenEXR file of all of them. */
  readonly light: string;
  readonly pictures: readonly {
    readonly grade: Grade;
    readonly description: string;
    readonly profile: Profile;
    readonly files: readonly { readonly kind: FileKind; readonly file: string }[];
  }[];
  readonly assets: string;
}
/** Pictures into a folder or a zip. */
export interface DeliverTask {
  readonly kind: 'deliver';
  readonly project: string;
  readonly number: number;
  readonly name: string;
  readonly pictures: readonly (DeliveredPicture & {
    readonly source: PictureSource;
    /** Files that are delivered as they are; null: there is none. */
    readonly sources: { readonly exr: string | null };
    /** Relative to the delivery. */
    readonly files: readonly { readonly format: DeliveryFormat; readonly path: string }[];
    readonly options: readonly { readonly facet: string; readonly name: string }[];
    /** Names of its grade's options; null: not graded. */
    readonly grade: string | null;
    readonly label: readonly string[];
    readonly widthPx: number;
    readonly heightPx: number;
    readonly samples: number;
    readonly profile: string;
    readonly renderedAt: string;
    readonly verdict: string | null;
  })[];
  readonly target: 'folder' | 'zip';
  /** What shows the pictures; not the sheet and the page, which are for screens of sRGB. */
  readonly display: Display;
  readonly hasSheet: boolean;
  readonly hasPage: boolean;
  readonly at: string;
  readonly assets: string;
  /** A folder that is not there yet, on the same disk as where it goes; whoever asked drops it. */
  readonly aside: string;
  readonly to: string;
}
export interface DeliveredOutcome {
  readonly files: readonly DeliveredFile[];
}
/** Pictures of a sequence into an animated WebP. */
export interface FilmTask {
  readonly kind: 'film';
  readonly frames: readonly FilmFrame[];
  readonly file: string;
}
export type Task =
  | FilmTask
  | SheetTask
  | DeliverTask
  | DevelopTask
  | TilesTask
  | LightPictureTask
  | ObjectsAtTask
  | ObjectMaskTask
  | ProbeTask
  | ProofTask
  | SplitTask
  | StandInsTask
  | VerifyTask
  | ImportTask
  | EnvironmentTask
  | LutTask
  | PlateTask
  | ReferenceTask
  | ExportTask
  | MatchTask
  | PlanTask;
export interface Outcomes {
  readonly import: ImportOutcome;
  readonly environment: EnvironmentOutcome;
  readonly lut: LutOutcome;
  readonly plate: PlateOutcome;
  readonly reference: ReferenceOutcome;
  readonly export: ExportOutcome;
  readonly match: MatchOutcome;
  readonly revise: MatchOutcome & { readonly sceneHash: string; readonly variants: readonly MaterialVariant[] };
  readonly plan: readonly PlannedTrace[];
  readonly probe: ProbeOutcome;
  readonly proof: { readonly bytes: number };
  readonly split: SplitOutcome;
  readonly standIns: StandInsOutcome;
  readonly verify: VerifyOutcome;
  readonly film: FilmOutcome;
  readonly lightPicture: { readonly bytes: number };
  readonly objectsAt: { readonly objects: readonly ShownObject[] };
  readonly objectMask: { readonly bytes: number };
  readonly deliver: DeliveredOutcome;
  readonly develop: { readonly files: number };
  readonly sheet: { readonly bytes: number };
  readonly tiles: { readonly bytes: number };
}
export type Message =
  | { readonly type: 'progress'; readonly fraction: number }
  | { readonly type: 'done'; readonly value: unknown }
  | { readonly type: 'failed'; readonly code: string; readonly message: string };
