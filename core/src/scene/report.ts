// What an import says about a file: kept with the scene revision and shown to the user.

export type FaultKind =
  | 'bad-geometry'
  | 'degenerate-triangles'
  | 'missing-texture'
  | 'damaged-texture'
  | 'unread-texture'
  | 'flat-object'
  | 'unread-extension'
  | 'unread-feature'
  | 'approximated'
  | 'ignored';

export interface ImportFault {
  readonly kind: FaultKind;
  /** Name of the object, mesh, material or texture. */
  readonly subject: string;
  readonly message: string;
}

export interface ImportReport {
  readonly fileName: string;
  readonly fileBytes: number;
  readonly objects: number;
  readonly groups: number;
  readonly lights: number;
  readonly cameras: number;
  readonly materials: number;
  readonly meshes: number;
  readonly trianglesStored: number;
  readonly trianglesPlaced: number;
  readonly textures: number;
  /** Decoded: RGBA, 8 or 16 bit as in the file. */
  readonly textureBytes: number;
  readonly sizeM: readonly [number, number, number];
  readonly faults: readonly ImportFault[];
}

export class ImportError extends Error {
  constructor(
    readonly code: 'UNKNOWN_FORMAT' | 'UNREADABLE' | 'UNSAFE' | 'TOO_LARGE',
    message: string,
    options?: ErrorOptions,
  ) {
    super(message, options);
    this.name = 'ImportError';
  }
}
