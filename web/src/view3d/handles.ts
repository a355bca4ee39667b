// Handles in the view that move, turn or scale what is selected, along the world's axes and about its middle. They only
// say by how much; who holds them decides.
import type { Placement } from '@variscen/core/looks';
import type { Rgb } from '@variscen/core/scene';
import * as THREE from 'three';
import { TransformControls } from 'three/addons/controls/TransformControls.js';
import { allAside } from './gradePass.ts';

export type HandleMode = 'move' | 'turn' | 'scale';
const MODES = { move: 'translate', turn: 'rotate', scale: 'scale' } as const;
/** Neutral, told apart by brightness; what is held is in the colour of focus. */
const AXES = ['#ffffff', '#b4b4b4', '#7a7a7a'] as const;
const HELD = '#c8e64a';
interface Listeners {
  changed(): void;
  holding(on: boolean): void;
  preview(matrix: THREE.Matrix4): void;
  done(change: Placement): void;
}

export class Handles {
  private readonly controls: TransformControls;
  private readonly grip = new THREE.Object3D();
  private readonly root = new THREE.Group();
  private middle: Rgb | null = null;
  private current: HandleMode | null = null;

  constructor(
    camera: THREE.Camera,
    canvas: HTMLElement,
    private readonly tell: Listeners,
  ) {
    this.controls = new TransformControls(camera, canvas);
    this.controls.setSize(0.8);
    this.controls.setColors(
      ...(AXES.map((c) => new THREE.Color(c)) as [THREE.Color, THREE.Color, THREE.Color]),
      new THREE.Color(HELD),
    );
    this.controls.space = 'world';
    allAside(this.controls.getHelper());
    this.root.add(this.grip, this.controls.getHelper());
    this.controls.addEventListener('change', () => this.tell.changed());
    this.controls.addEventListener('objectChange', () => this.tell.preview(this.matrix()));
    this.controls.addEventListener('mouseDown', () => this.tell.holding(true));
    this.controls.addEventListener('mouseUp', () => {
      this.tell.holding(false);
      const c = this.change();
      this.reset();
      if (c.offset.some((x) => x !== 0) || c.turn.some((x) => x !== 0) || c.scale.some((x) => x !== 1))
        this.tell.done(c);
    });
  }
  get object(): THREE.Object3D {
    return this.root;
  }
  /** A handle is in the hand. */
  get held(): boolean {
    return this.controls.dragging;
  }
  get mode(): HandleMode | null {
    return this.current;
  }
  set mode(mode: HandleMode | null) {
    this.current = mode;
    if (mode) this.controls.setMode(MODES[mode]);
  }
  /** Around a point of the world; null for none. */
  attach(middle: Rgb | null): void {
    this.middle = middle;
    this.reset();
    if (middle && this.current) this.controls.attach(this.grip);
    else this.controls.detach();
  }
  free(): void {
    this.controls.detach();
    this.controls.dispose();
  }

  private reset(): void {
    if (this.middle) this.grip.position.set(...this.middle);
    this.grip.rotation.set(0, 0, 0, 'ZYX');
    this.grip.scale.set(1, 1, 1);
    this.grip.updateMatrixWorld();
  }
  /** From where things are to where they are held. */
  private matrix(): THREE.Matrix4 {
    const [x, y, z] = this.middle ?? [0, 0, 0];
    this.grip.updateMatrix();
    return this.grip.matrix.clone().multiply(new THREE.Matrix4().makeTranslation(-x, -y, -z));
  }
  private change(): Placement {
    const [x, y, z] = this.middle ?? [0, 0, 0];
    const round = (v: number, digits: number) => Number(v.toFixed(digits));
    const e = new THREE.Euler().setFromQuaternion(this.grip.quaternion, 'ZYX');
    const deg = (r: number) => round((r * 180) / Math.PI, 3);
    const s = this.grip.scale;
    return {
      offset: [
        round(this.grip.position.x - x, 5),
        round(this.grip.position.y - y, 5),
        round(this.grip.position.z - z, 5),
      ],
      turn: [deg(e.x), deg(e.y), deg(e.z)],
      scale: [round(Math.max(0.001, s.x), 4), round(Math.max(0.001, s.y), 4), round(Math.max(0.001, s.z), 4)],
    };
  }
}
