// What handlers call, made once.
import type { Health } from '@variscen/contract';
import { AddedLightService } from '../domain/addedLights.ts';
import { BoardService } from '../domain/board.ts';
import { CameraService } from '../domain/cameras.ts';
import { CleaningService } from '../domain/cleaning.ts';
import { CullService } from '../domain/cull.ts';
import type { Context } from '../domain/context.ts';
import { DeliveryService } from '../domain/deliveries.ts';
import { DevelopService } from '../domain/develops.ts';
import { FitService } from '../domain/fits.ts';
import { Edits } from '../domain/edits.ts';
import { EnvironmentService } from '../domain/environments.ts';
import { LightPictureService } from '../domain/lightPictures.ts';
import { LatelyService } from '../domain/lately.ts';
import { LibraryService } from '../domain/library.ts';
import { OptionService } from '../domain/options.ts';
import { PictureService } from '../domain/pictures.ts';
import { PendingService } from '../domain/pending.ts';
import { PlanService } from '../domain/plans.ts';
import { ProfileService } from '../domain/profiles.ts';
import { RerunService } from '../domain/reruns.ts';
import { ProjectService } from '../domain/projects.ts';
import { ReferenceService } from '../domain/references.ts';
import { RegionService } from '../domain/regions.ts';
import { ReviewService } from '../domain/reviews.ts';
import { RevisionService } from '../domain/revisions.ts';
import { SheetService } from '../domain/sheets.ts';
import { StorageService } from '../domain/storage.ts';
import { StorageUseService } from '../domain/storageUses.ts';
import { VariantService } from '../domain/variants.ts';
import { Uploads } from './uploads.ts';

export type Services = ReturnType<typeof makeServices>;

export function makeServices(c: Context, health: () => Promise<Health['parts']>) {
  const edits = new Edits(c);
  const projects = new ProjectService(c, edits);
  const profiles = new ProfileService(c, projects);
  const cameras = new CameraService(edits);
  const boards = new BoardService(c, projects, profiles);
  const pictures = new PictureService(c);
  const reviews = new ReviewService(c, edits);
  const culls = new CullService(c, projects, cameras);
  return {
    c,
    health,
    edits,
    projects,
    uploads: new Uploads(c.uploads, c.disk),
    pictures,
    lightPictures: new LightPictureService(c),
    lately: new LatelyService(c, projects),
    library: new LibraryService(c, projects),
    options: new OptionService(projects),
    variants: new VariantService(projects),
    pending: new PendingService(projects, edits),
    addedLights: new AddedLightService(projects),
    cameras,
    culls,
    fits: new FitService(c, projects, profiles, culls),
    references: new ReferenceService(c, projects),
    reviews,
    regions: new RegionService(c, edits, projects),
    sheets: new SheetService(c, projects, reviews, pictures),
    revisions: new RevisionService(c, edits),
    environments: new EnvironmentService(c),
    boards,
    develops: new DevelopService(c, projects),
    cleaning: new CleaningService(c, projects),
    deliveries: new DeliveryService(c, projects, reviews, boards, pictures),
    plans: new PlanService(c, projects, profiles, culls),
    reruns: new RerunService(c, projects),
    profiles,
    storage: new StorageService(c),
    storageUses: new StorageUseService(c),
  };
}
