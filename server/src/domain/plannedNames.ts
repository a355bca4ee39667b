// What the files of planned cells are called: versions that nobody was promised yet, and what is wrong with the names.
import type { Project } from '@variscen/contract';
import {
  type NamedParts,
  type NameValues,
  type Profile,
  faultOfPath,
  findClashes,
  inFolder,
  linearFiles,
  nameValuesOf,
  pathOfFile,
  pathOfPicture,
  renderName,
  sequenceTemplate,
} from '@variscen/core/plan';
import { In } from 'typeorm';
import { Outputs } from '../db/entities/index.ts';
import { type PictureRef, cellKey } from '../work/looksTasks.ts';
import type { Context } from './context.ts';

export interface NamedCell extends PictureRef {
  readonly cameraName: string;
  readonly variantName: string;
  readonly version: number;
  /** Without extension; {aov} may stand in it. */
  readonly path: string;
  /** The same whenever it is asked for, also where the template has a date or a time. */
  readonly timelessPath: string;
}
export interface NameFault {
  readonly message: string;
  readonly path: string | null;
}
interface PlannedFile {
  readonly ref: PictureRef;
  readonly profile: Profile;
  readonly values: NameValues & { version: number };
  path: string;
}
/** Of any file that a profile may have written beside others: none of them is to be met. */
const EXTENSIONS = ['.exr', '.png', '.tif', '.jpg', '.webp'] as const;
/** All that would lie where a cell's files are to lie, whatever the profile of now writes. */
const namesAt = (path: string, profile: Profile): string[] => [
  ...EXTENSIONS.map((extension) => pathOfFile(path, { extension })),
  ...linearFiles(profile).map((file) => pathOfFile(path, file)),
];
const NO_TIME = new Date(0).toISOString();
const MOST_VERSIONS_TRIED = 1000;

export class PlannedNames {
  constructor(
    private readonly c: Context,
    private readonly p: Project,
    private readonly profile: Profile,
  ) {}

  /** In the order of the cells. Versions rise past what was promised and what lies on the disk. */
  async of(
    refs: readonly PictureRef[],
    profiles: readonly Profile[],
  ): Promise<{ readonly cells: NamedCell[]; readonly faults: NameFault[] }> {
    const last = await this.lastVersions(refs);
    const cameras = new Map(this.p.cameras.map((c) => [c.id, c]));
    const variants = new Map(this.p.variants.map((v) => [v.id, v]));
    const at = this.c.now().toISOString(); // one moment for all files of a plan
    const files = refs.map((ref, i): PlannedFile => {
      const version = (last.get(cellKey(ref)) ?? 0) + 1;
      const camera = cameras.get(ref.cameraId)!;
      const parts = { camera, variant: variants.get(ref.variantId)!, profile: profiles[i]!, version, frame: ref.frame };
      const values = this.valuesOf({ ...parts, at });
      return { ref, profile: profiles[i]!, values, path: this.pathOf(ref, values) };
    });
    const isVersioned = this.template.includes('{version}');
    let taken = await this.takenAmong(files);
    for (let tries = 0; isVersioned && tries < MOST_VERSIONS_TRIED; tries++) {
      // all frames of a sequence have one version
      const again = new Set(files.filter((f) => taken.has(f.path.toLowerCase())).map((f) => cellKey(f.ref)));
      if (!again.size) break;
      for (const f of files.filter((x) => again.has(cellKey(x.ref)))) {
        f.values.version++;
        f.path = this.pathOf(f.ref, f.values);
      }
      taken = await this.takenAmong(files);
    }
    const isDated = /\{(date|time)\}/.test(this.template);
    const cells = refs.map((ref, i): NamedCell => {
      const { values, path } = files[i]!;
      const { camera: cameraName, variant: variantName, version } = values;
      const timelessPath = isDated ? this.pathOf(ref, { ...values, at: NO_TIME }) : path;
      return { ...ref, cameraName, variantName, version, path, timelessPath };
    });
    return { cells, faults: [...this.unsafe(cells), ...this.clashes(files, taken)] };
  }

  private get template(): string {
    return this.profile.nameTemplate ?? this.p.nameTemplate;
  }
  private pathOf({ frame }: PictureRef, values: NameValues): string {
    const template = frame === null ? this.template : sequenceTemplate(this.template);
    return inFolder(this.profile.outputFolder, renderName(template, values));
  }

  private valuesOf(
    given: Omit<NamedParts, 'project' | 'variant' | 'options'> & { readonly variant: Project['variants'][number] },
  ): NameValues & { version: number } {
    const { p } = this;
    const options = given.variant.optionIds.flatMap((id) => p.options.find((o) => o.id === id) ?? []);
    return {
      ...nameValuesOf({ ...given, project: p.name, variant: given.variant.name, options }),
      version: given.version,
    };
  }

  private *unsafe(cells: readonly NamedCell[]): Generator<NameFault> {
    const said = new Set<string>();
    for (const { path, cameraName, variantName } of cells) {
      const fault = faultOfPath(path);
      if (!fault || said.has(fault)) continue;
      said.add(fault);
      yield { path: pathOfFile(path, { extension: '.exr' }), message: `${cameraName} in ${variantName}: ${fault}` };
    }
  }

  private clashes(planned: readonly PlannedFile[], taken: ReadonlySet<string>): NameFault[] {
    const files = planned.map((f) => ({ ...f, owner: ownerOf(f) }));
    const known = new Set(files.map((f) => f.path.toLowerCase()));
    const exists = (path: string) =>
      taken.has(path.toLowerCase()) || (!known.has(path.toLowerCase()) && this.isOnDisk(path));
    return findClashes(files, exists, this.template, this.profile.outputFolder).map((clash) => {
      const file = pathOfFile(clash.path, { extension: '.exr' });
      return {
        path: file,
        message:
          clash.owners.length > 1
            ? `${clash.owners.length} cells would write “${file}”: ${clash.owners.join(' and ')}. ${clash.remedy}`
            : `“${file}” is already there or promised, and nothing is overwritten. ${clash.remedy}`,
      };
    });
  }

  /** Of a path that nobody plans, which a remedy would lead to. */
  private isOnDisk(path: string): boolean {
    return !faultOfPath(path) && namesAt(path, this.profile).some((file) => this.c.output.exists(file));
  }

  /** In lower case, paths of those that were promised to a trace or lie on the disk. */
  private async takenAmong(files: readonly PlannedFile[]): Promise<ReadonlySet<string>> {
    const pictures = files.map((f) => pathOfPicture(f.path).toLowerCase());
    const rows = await this.c.db.query<{ path: string }[]>(
      'SELECT lower(path) AS path FROM output WHERE lower(path) = ANY($1)',
      [pictures],
    );
    const promised = new Set(rows.map((r) => r.path));
    const names = files.map((f) => namesAt(f.path, f.profile));
    const lying = await this.c.output.lyingAmong(names.flat());
    const isTaken = (i: number) => promised.has(pictures[i]!) || names[i]!.some((name) => lying.has(name));
    return new Set(files.flatMap((f, i) => (isTaken(i) ? [f.path.toLowerCase()] : [])));
  }

  private async lastVersions(refs: readonly PictureRef[]): Promise<Map<string, number>> {
    const rows = await this.c.db
      .getRepository(Outputs)
      .createQueryBuilder('o')
      .select('o.camera_id', 'camera')
      .addSelect('o.variant_id', 'variant')
      .addSelect('max(o.version)', 'last')
      .where({ cameraId: In([...new Set(refs.map((r) => r.cameraId))]) })
      .groupBy('o.camera_id')
      .addGroupBy('o.variant_id')
      .getRawMany<{ camera: string; variant: string; last: number }>();
    return new Map(rows.map((r) => [`${r.camera} ${r.variant}`, Number(r.last)]));
  }
}

const ownerOf = ({ ref, values }: PlannedFile): string =>
  `“${values.camera}” in “${values.variant}”${ref.frame === null ? '' : `, frame ${ref.frame}`}`;
