// What is selected, as the view shows it: rims, or one box around many; handles that move it.
import { type Placement, type ResolvedState, lightPlacement, placementOf } from '@variscen/core/looks';
import { deforms } from '@variscen/core/scene';
import * as THREE from 'three';
import { allAside } from './gradePass.ts';
import { type HandleMode, Handles } from './handles.ts';
import { outlineOf } from './outline.ts';
import type { PosedScene } from './posedScene.ts';

/** More selected objects than these get one box around them all. */
const OUTLINED_ONE_BY_ONE = 60;
const SELECTED_COLOR = 0xc8e64a;
const LEAST_SCALE = 0.001;
const MOST_SCALE = 1000;
const UNMOVED: Placement = { offset: [0, 0, 0], turn: [0, 0, 0], scale: [1, 1, 1] };

interface Listeners {
  changed(): void;
  /** A handle is taken, or let go. */
  holding(on: boolean): void;
  /** While a handle is held only what it moves goes along. @param nodes that have a shape */
  preview(nodes: readonly number[], by: THREE.Matrix4): void;
  /** Where each of nodes is put now. */
  placed(nodes: readonly number[], change: Placement): void;
}

export class SelectionView {
  readonly group = new THREE.Group();
  private readonly rims = new THREE.Group();
  private readonly handles: Handles;
  private selected: readonly number[] = [];

  constructor(
    camera: THREE.Camera,
    canvas: HTMLElement,
    private readonly scene: PosedScene,
    tell: Listeners,
  ) {
    this.handles = new Handles(camera, canvas, {
      changed: () => tell.changed(),
      holding: (on) => tell.holding(on),
      preview: (by) => {
        this.rims.visible = false;
        tell.preview(scene.shapesIn(this.tops()), by);
      },
      done: (change) => {
        this.rims.visible = true;
        tell.placed(this.tops(), change);
      },
    });
    this.group.add(this.rims, this.handles.object);
  }
  free(): void {
    this.clear();
    this.handles.free();
  }

  /** A handle is in the hand. */
  get isHeld(): boolean {
    return this.handles.held;
  }
  get nodes(): readonly number[] {
    return this.selected;
  }
  private tops(): number[] {
    return this.scene.topsOf(this.selected);
  }

  /** Outlines nodes with all that is in them, where they stand now. */
  show(nodes: readonly number[]): void {
    this.selected = nodes;
    this.clear();
    const shapes = this.scene.shapesIn(nodes);
    if (shapes.length > OUTLINED_ONE_BY_ONE) this.boxAround(shapes);
    else for (const node of shapes) this.rimAround(node);
    this.putHandles();
  }
  /** null: none */
  showHandles(mode: HandleMode | null): void {
    this.handles.mode = mode;
    this.putHandles();
  }
  private putHandles(): void {
    const last = this.handles.mode === null ? undefined : this.tops().at(-1);
    this.handles.attach(last === undefined ? null : this.scene.middleOf(last));
  }

  private clear(): void {
    for (const o of [...this.rims.children]) {
      if (o instanceof THREE.Box3Helper) o.dispose();
      this.rims.remove(o);
    }
  }
  private rimAround(node: number): void {
    const { posed, world } = this.scene;
    for (const { mesh } of posed.nodes[node]!.parts!) {
      const geometry = this.scene.geometryOf(mesh, deforms(posed, node, mesh) ? node : undefined);
      if (geometry) this.rims.add(outlineOf(geometry, world[node]!));
    }
  }
  private boxAround(nodes: readonly number[]): void {
    const helper = new THREE.Box3Helper(this.scene.boxOf(nodes), SELECTED_COLOR);
    (helper.material as THREE.LineBasicMaterial).depthTest = false;
    allAside(helper);
    this.rims.add(helper);
  }
}

/** Where a change by handles puts a node that a look has placed already. */
export function placedBy(scene: PosedScene, state: ResolvedState, node: number, change: Placement): Placement {
  const { path } = scene.document.nodes[node]!;
  const now = (scene.isLight(node) ? lightPlacement(state, path) : placementOf(state, path)) ?? UNMOVED;
  return {
    offset: joined(now.offset, change.offset, (x, y) => x + y),
    turn: joined(now.turn, change.turn, (x, y) => ((x + y + 540) % 360) - 180),
    scale: joined(now.scale, change.scale, (x, y) => Math.min(MOST_SCALE, Math.max(LEAST_SCALE, x * y))),
  };
}
type Triple = Placement['offset'];
function joined(a: Triple, b: Triple, f: (x: number, y: number) => number): Triple {
  return a.map((x, k) => Number(f(x, b[k]!).toPrecision(7))) as unknown as Triple;
}
