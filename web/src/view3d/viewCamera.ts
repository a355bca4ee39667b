// The eye of the real-time view: turned and walked by hand, or looking through a camera of the project, which goes
// along unless it is locked.
import { type CameraSettings, halfHeightOf, poseOf } from '@variscen/core/scene';
import * as THREE from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { Walk } from './walk.ts';

const FRAME_MARGIN_PX = 44;
const LEAST_FRAME_PX = 10;
/** As the view's own camera is told of, which has no sensor. */
const FREE_SENSOR_MM = 36;
/** What is brought into view is surrounded by so much. */
const ROOM = 1.3;
const ROLL_DEG = 1e-6;

/** The frame of the camera that is looked through, in pixels of the view. */
export interface FrameRect {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}
interface Listeners {
  /** A step of navigating. */
  moved(): void;
  /** A hand takes hold of the view, or lets it go. */
  held(on: boolean): void;
  rested(): void;
  /** Somebody tried to move a locked camera. */
  refused(): void;
}

export class ViewCamera {
  readonly camera = new THREE.PerspectiveCamera();
  private readonly controls: OrbitControls;
  private readonly walk: Walk;
  private through: CameraSettings | null = null;
  private locked = false;
  private rollDeg = 0;

  constructor(
    canvas: HTMLCanvasElement,
    private readonly tell: Listeners,
  ) {
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener('change', () => this.navigated());
    this.controls.addEventListener('start', () => tell.held(true));
    this.controls.addEventListener('end', () => {
      tell.held(false);
      tell.rested();
    });
    this.walk = new Walk(canvas, this.camera, this.controls, {
      free: () => !this.locked,
      refused: () => tell.refused(),
      ended: () => tell.rested(),
    });
  }
  close(): void {
    this.walk.close();
    this.controls.dispose();
  }

  /** What the eye turns about, in the world. */
  get target(): THREE.Vector3 {
    return this.controls.target;
  }
  get isLocked(): boolean {
    return this.locked;
  }
  /** Camera to world, by columns, of the camera that goes along; undefined where none does. */
  get goesAlong(): number[] | undefined {
    if (!this.through || this.locked) return undefined;
    this.camera.updateMatrixWorld();
    return this.camera.matrixWorld.toArray();
  }
  /** Something else has the pointer, and the view stands still. */
  holdStill(on: boolean): void {
    this.controls.enabled = !on && !this.locked;
  }

  /** Looks through a camera; null leaves the eye where it is, free to move. */
  lookThrough(settings: CameraSettings | null, locked: boolean): void {
    this.through = settings;
    this.locked = settings !== null && locked;
    this.controls.enabled = !this.locked;
    const rollDeg = settings ? poseOf(settings.matrix).rollDeg : 0;
    this.rollDeg = Math.abs(rollDeg) < ROLL_DEG ? 0 : rollDeg;
    if (!settings) return;
    if (!this.standsAt(settings.matrix)) this.standAt(settings);
    this.camera.near = settings.nearM;
    this.camera.far = settings.farM;
  }
  /** What comes back from navigating is where the eye is already: its pivot stays. */
  private standsAt(matrix: readonly number[]): boolean {
    const now = this.camera.matrixWorld.elements;
    return matrix.every((x, i) => Math.abs(x - now[i]!) <= 1e-6 * (1 + Math.abs(x)));
  }
  private standAt({ matrix, focusDistanceM }: CameraSettings): void {
    const m = new THREE.Matrix4().fromArray(matrix);
    const eye = new THREE.Vector3().setFromMatrixPosition(m);
    const along = new THREE.Vector3().setFromMatrixColumn(m, 2).normalize().negate();
    this.controls.target.copy(eye).addScaledVector(along, focusDistanceM);
    m.decompose(this.camera.position, this.camera.quaternion, new THREE.Vector3());
    this.camera.updateMatrixWorld();
  }

  /** After every step of navigating: the camera that is looked through goes along, keeping its roll. */
  private navigated(): void {
    if (this.rollDeg) this.camera.rotateZ((-this.rollDeg * Math.PI) / 180);
    this.tell.moved();
  }

  /** Fits what is seen to the size of the view. Answers with the frame of the camera that is looked through. */
  fit(widthPx: number, heightPx: number): FrameRect | undefined {
    const { camera, through } = this;
    camera.aspect = widthPx / heightPx;
    const rect = through ? frameIn(through, widthPx, heightPx) : undefined;
    if (through?.projection === 'perspective' && rect)
      camera.fov = (2 * Math.atan(halfHeightOf(through) * (heightPx / rect.height)) * 180) / Math.PI;
    camera.updateProjectionMatrix();
    if (through && rect) this.project(through, rect, widthPx, heightPx);
    return rect;
  }
  /** What a plain perspective does not have: a parallel projection, a shifted one. */
  private project(through: CameraSettings, rect: FrameRect, widthPx: number, heightPx: number): void {
    const { projectionMatrix, projectionMatrixInverse } = this.camera;
    if (through.projection === 'orthographic') {
      const top = through.orthoHalfHeightM * (heightPx / rect.height);
      const right = top * (widthPx / heightPx);
      projectionMatrix.makeOrthographic(-right, right, top, -top, through.nearM, through.farM);
    } else {
      projectionMatrix.elements[8] = 2 * (through.shiftX ?? 0) * (rect.width / widthPx);
      projectionMatrix.elements[9] = 2 * (through.shiftY ?? 0) * (rect.height / heightPx);
    }
    projectionMatrixInverse.copy(projectionMatrix).invert();
  }

  /** Moves the eye so that a sphere fills most of the view; a locked camera stays. */
  bringIntoView(sphere: THREE.Sphere): void {
    if (this.locked) {
      this.tell.refused();
      return;
    }
    const half = Math.tan((this.camera.fov * Math.PI) / 360) * Math.min(1, this.camera.aspect);
    const distance = Math.max(sphere.radius * ROOM, 1e-3) / Math.sin(Math.atan(half));
    const back = new THREE.Vector3(0, 0, 1).applyQuaternion(this.camera.quaternion);
    this.controls.target.copy(sphere.center);
    this.camera.position.copy(sphere.center).addScaledVector(back, distance);
    this.controls.update();
    this.navigated();
    this.tell.rested();
  }

  /** The eye as a camera of its own. @param frame of an animated scene */
  asSettings(widthPx: number, heightPx: number, frame: number): CameraSettings {
    const { near, far, fov } = this.camera;
    this.camera.updateMatrixWorld();
    return {
      matrix: this.camera.matrixWorld.toArray(),
      projection: 'perspective',
      widthPx,
      heightPx,
      sensorWidthMm: FREE_SENSOR_MM,
      focalLengthMm: ((FREE_SENSOR_MM / 2) * heightPx) / (Math.tan((fov * Math.PI) / 360) * widthPx),
      orthoHalfHeightM: 1,
      nearM: near,
      farM: far,
      focusDistanceM: Math.max(0.01, this.camera.position.distanceTo(this.controls.target)),
      fStop: null,
      cullMarginPct: null,
      ...(frame > 0 && { frame }),
    };
  }

  /** Through a point of the view, in the world. */
  rayThrough(x: number, y: number, widthPx: number, heightPx: number): THREE.Ray {
    const at = (z: number) =>
      new THREE.Vector3((x / widthPx) * 2 - 1, 1 - (y / heightPx) * 2, z).unproject(this.camera);
    const from = at(-1);
    return new THREE.Ray(from, at(1).sub(from).normalize());
  }
}

function frameIn({ widthPx, heightPx }: CameraSettings, width: number, height: number): FrameRect {
  const aspect = widthPx / heightPx;
  const fh = Math.max(LEAST_FRAME_PX, Math.min((width - 2 * FRAME_MARGIN_PX) / aspect, height - 2 * FRAME_MARGIN_PX));
  const fw = fh * aspect;
  return { left: (width - fw) / 2, top: (height - fh) / 2, width: fw, height: fh };
}
