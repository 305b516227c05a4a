// From where the model is seen: standard views, parallel or in perspective, following a link.

import { THREE, OrbitControls } from "nicegui-scene";

// Towards the eye.
const VIEWS = {
  corner: [1, -1.35, 0.75],
  front: [1, 0, 0],
  back: [-1, 0, 0],
  left: [0, 1, 0],
  right: [0, -1, 0],
  top: [0, 0, 1],
  bottom: [0, 0, -1],
};
const ANGLE = 32;

// Of one model and not of another: within a factor of two, as postures differ, too.
const alike = (one, other) => one > 0 && one < 2 * other && other < 2 * one;

const cornerOf = ({ min, max }, k) => new THREE.Vector3(k & 1 ? max.x : min.x, k & 2 ? max.y : min.y, k & 4 ? max.z : min.z);

export class Eye {
  constructor(stage) {
    this.stage = stage;
    this.ratio = 1.6;
    this.near = new THREE.PerspectiveCamera(ANGLE, this.ratio, 0.01, 100);
    this.flat = new THREE.OrthographicCamera(-1, 1, 1, -1, -100, 100);
    for (const camera of [this.near, this.flat]) camera.up.set(0, 0, 1);
    this.camera = this.near;
    this.controls = new OrbitControls(this.camera, stage.renderer.domElement);
    this.controls.addEventListener("change", () => stage.dirty());
    this.controls.addEventListener("end", () => this.tell());
    this.near.position.set(3, -4, 2);
    this.pursued = null;
    this.recalled = null;
  }

  get target() {
    return this.controls.target;
  }

  shape(ratio) {
    this.ratio = ratio;
    this.near.aspect = ratio;
    this.near.updateProjectionMatrix();
    this.fitFlat();
  }

  size(reach) {
    this.near.near = 0.002 * reach;
    this.near.far = 100 * reach;
    this.near.updateProjectionMatrix();
    this.flat.near = -50 * reach;
    this.flat.far = 50 * reach;
  }

  // A model that is as large as the one before, if any, is seen from where that was; the first, as
  // it was left, or from the corner. Nothing to see is no first.
  meet(before) {
    const { meshes, reach } = this.stage.model;
    if (!meshes.length || alike(before, reach)) return;
    if (before) this.look("fit");
    else if (alike(this.recalled?.reach, reach)) this.recall(this.recalled);
    else this.look("corner");
  }

  // Before a move by numbers: which links are in sight, wholly or in their middle.
  beware() {
    this.inSight = this.sights();
  }

  // After it, what was seen is still seen.
  heed() {
    const before = this.inSight;
    this.inSight = null;
    if (!before) return;
    const now = this.sights();
    const all = [...before.values()].every((seen) => seen.wholly);
    for (const [link, { wholly, middle }] of before) {
      if ((all && wholly && !now.get(link)?.wholly) || (middle && !now.get(link)?.middle)) return this.look("fit");
    }
  }

  sights() {
    this.camera.updateMatrixWorld();
    const inside = (place) => {
      const { x, y, z } = place.project(this.camera);
      return Math.abs(x) < 1.02 && Math.abs(y) < 1.02 && z < 1;
    };
    const seen = new Map();
    for (const [link, box] of this.stage.model.boxes()) {
      const middle = inside(box.getCenter(new THREE.Vector3()));
      const wholly = [0, 1, 2, 3, 4, 5, 6, 7].every((k) => inside(cornerOf(box, k)));
      seen.set(link, { wholly, middle });
    }
    return seen;
  }

  // By somebody's will, which is kept.
  view(name) {
    this.look(name);
    this.tell();
  }

  look(name) {
    if (!this.stage.model.box) return;
    if (name === "flat" || name === "deep") return this.project(name === "flat");
    this.stage.model.measure();
    if (name !== "fit") {
      const way = new THREE.Vector3(...VIEWS[name]).normalize();
      // From straight above the model would have no up.
      if (Math.abs(way.z) === 1) way.add(new THREE.Vector3(1e-4, 0, 0)).normalize();
      this.camera.position.copy(this.target).addScaledVector(way, 1);
    }
    this.fit();
  }

  // As near as shows everything.
  fit() {
    const { box, centre } = this.stage.model;
    const back = this.camera.position.clone().sub(this.target).normalize();
    const right = new THREE.Vector3(0, 0, 1).cross(back).normalize();
    const up = back.clone().cross(right);
    const tall = Math.tan((ANGLE / 2) * (Math.PI / 180));
    let far = 0;
    let half = 0;
    for (let k = 0; k < 8; k++) {
      const corner = cornerOf(box, k).sub(centre);
      const aside = Math.max(Math.abs(corner.dot(right)) / this.ratio, Math.abs(corner.dot(up)));
      half = Math.max(half, aside);
      far = Math.max(far, aside / tall + corner.dot(back));
    }
    this.target.copy(centre);
    this.camera.position.copy(centre).addScaledVector(back, 1.1 * far);
    this.half = 1.12 * half;
    this.flat.zoom = 1;
    this.fitFlat();
    this.controls.update();
    this.stage.dirty();
  }

  fitFlat() {
    const half = this.half ?? 1;
    Object.assign(this.flat, { left: -half * this.ratio, right: half * this.ratio, top: half, bottom: -half });
    this.flat.updateProjectionMatrix();
  }

  project(flat) {
    const other = flat ? this.flat : this.near;
    if (other === this.camera) return;
    other.position.copy(this.camera.position);
    other.quaternion.copy(this.camera.quaternion);
    if (flat) {
      const far = this.camera.position.distanceTo(this.target);
      this.half = far * Math.tan((ANGLE / 2) * (Math.PI / 180));
      this.flat.zoom = 1;
      this.fitFlat();
    }
    this.camera = other;
    this.controls.object = other;
    this.controls.update();
    this.stage.dirty();
  }

  // Look at a place [m] from where the eye is, from nearer by.
  go(place) {
    const aim = new THREE.Vector3(...place.at);
    const way = this.camera.position.clone().sub(this.target).normalize();
    const far = Math.max(3 * (place.size ?? 0), 0.75 * this.stage.model.reach);
    this.target.copy(aim);
    this.camera.position.copy(aim).addScaledVector(way, far);
    this.controls.update();
    this.stage.dirty();
  }

  // Keep the chosen link where it is on the screen.
  follow(chosen, on) {
    if (on !== null) this.following = on;
    this.pursued = this.following && chosen?.link ? chosen.link : null;
    this.from = null;
  }

  pursue() {
    const group = this.pursued && this.stage.model.links.get(this.pursued);
    if (!group) return;
    if (this.from) {
      const way = group.position.clone().sub(this.from);
      this.target.add(way);
      this.camera.position.add(way);
      this.camera.lookAt(this.target);
    }
    this.from = group.position.clone();
  }

  tell() {
    const said = {
      at: this.camera.position.toArray(),
      to: this.target.toArray(),
      flat: this.camera === this.flat,
      half: this.half ?? 1,
      zoom: this.flat.zoom,
      reach: this.stage.model.reach,
    };
    if (this.stage.model.meshes.length) this.stage.hub.ask("keep", { key: "camera", value: said });
  }

  recall(said) {
    this.recalled = said;
    if (!said || !this.stage.model.box) return;
    this.camera = said.flat ? this.flat : this.near;
    this.controls.object = this.camera;
    this.camera.position.fromArray(said.at);
    this.target.fromArray(said.to);
    this.half = said.half;
    this.flat.zoom = said.zoom;
    this.fitFlat();
    this.controls.update();
    this.stage.dirty();
  }
}
