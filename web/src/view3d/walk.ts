// Walking with the keyboard while the view has the focus: arrows go on, back, and turn; with Alt the side arrows step
// aside; PageUp and PageDown rise and sink;
// Shift hurries. A step covers what a person covers in the time, measured against how far away the view's pivot is.
import * as THREE from 'three';
import type { OrbitControls } from 'three/addons/controls/OrbitControls.js';

const KEYS: readonly string[] = ['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight', 'PageUp', 'PageDown'];
/** Metres a second at a pivot that is 5 m away; radians a second. */
const PACE_M = 1.6;
const TURN_RAD = 1.1;

export class Walk {
  private readonly down = new Set<string>();
  private fast = false;
  private aside = false;
  private request = 0;
  private last = 0;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly camera: THREE.PerspectiveCamera,
    private readonly controls: OrbitControls,
    private readonly tell: { free(): boolean; refused(): void; ended(): void },
  ) {
    canvas.tabIndex = 0;
    canvas.setAttribute('aria-label', 'View of the scene. Arrow keys walk, PageUp and PageDown rise and sink.');
    canvas.setAttribute('role', 'application');
    canvas.addEventListener('keydown', this.onKey);
    canvas.addEventListener('keyup', this.onKey);
    canvas.addEventListener('blur', this.stop);
    canvas.addEventListener('pointerdown', this.focus);
  }
  close(): void {
    this.stop();
    this.canvas.removeEventListener('keydown', this.onKey);
    this.canvas.removeEventListener('keyup', this.onKey);
    this.canvas.removeEventListener('blur', this.stop);
    this.canvas.removeEventListener('pointerdown', this.focus);
  }

  private readonly focus = () => {
    this.canvas.focus({ preventScroll: true });
  };
  private readonly stop = () => {
    if (this.request) this.tell.ended();
    this.down.clear();
    cancelAnimationFrame(this.request);
    this.request = 0;
  };
  private readonly onKey = (e: KeyboardEvent) => {
    if (!KEYS.includes(e.key) || e.ctrlKey || e.metaKey) return;
    e.preventDefault();
    e.stopPropagation();
    this.fast = e.shiftKey;
    this.aside = e.altKey;
    // up to now: where frames come slowly, a short press would otherwise end before its first
    if (e.type === 'keyup') {
      if (this.request && this.down.has(e.key)) {
        cancelAnimationFrame(this.request);
        this.step(performance.now());
      }
      this.down.delete(e.key);
      if (!this.down.size) this.stop();
      return;
    }
    if (!this.tell.free()) {
      this.tell.refused();
      return;
    }
    this.down.add(e.key);
    if (!this.request) {
      this.last = performance.now();
      this.request = requestAnimationFrame(this.step);
    }
  };
  private readonly step = (now: number) => {
    if (!this.down.size) return;
    const seconds = Math.min(0.1, Math.max(1 / 240, (now - this.last) / 1000));
    const reach = this.controls.target.clone().sub(this.camera.position);
    const pace = PACE_M * Math.max(0.02, reach.length() / 5) * (this.fast ? 4 : 1) * seconds;
    const has = (k: string) => (this.down.has(k) ? 1 : 0);
    this.last = now;
    const side = has('ArrowRight') - has('ArrowLeft');
    const along = reach.clone().setY(0).normalize();
    const right = new THREE.Vector3(1, 0, 0).applyQuaternion(this.camera.quaternion);
    const step = along
      .multiplyScalar((has('ArrowUp') - has('ArrowDown')) * pace)
      .add(new THREE.Vector3(0, (has('PageUp') - has('PageDown')) * pace, 0));
    if (this.aside) step.addScaledVector(right, side * pace);
    else if (side) {
      reach.applyAxisAngle(new THREE.Vector3(0, 1, 0), -side * TURN_RAD * seconds);
      this.controls.target.copy(this.camera.position).add(reach);
    }
    this.camera.position.add(step);
    this.controls.target.add(step);
    this.controls.update();
    this.request = requestAnimationFrame(this.step);
  };
}
