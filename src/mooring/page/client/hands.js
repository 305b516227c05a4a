// What the pointer does in the view: choose, move by pulling, measure.

import { THREE } from "nicegui-scene";

const CLICK = 4;
const SNAP = 10;
const OFTEN = 33;

export class Hands {
  constructor(stage) {
    this.stage = stage;
    this.tool = "look";
    this.ray = new THREE.Raycaster();
    this.pulled = null;
    this.from = null;
    const place = stage.renderer.domElement;
    // Before the controls hear of it, so that pulling does not turn the view.
    place.addEventListener("pointerdown", (event) => this.down(event), true);
    window.addEventListener("pointermove", (event) => this.move(event));
    window.addEventListener("pointerup", (event) => this.up(event));
    place.addEventListener("dblclick", (event) => this.twice(event));
  }

  take(tool) {
    this.tool = tool;
    this.from = null;
    if (tool !== "measure") this.stage.symbols.measured(null);
    this.stage.renderer.domElement.style.cursor = { look: "", move: "grab", measure: "crosshair" }[tool];
  }

  aim(event) {
    const box = this.stage.renderer.domElement.getBoundingClientRect();
    const at = new THREE.Vector2(
      (2 * (event.clientX - box.left)) / box.width - 1,
      1 - (2 * (event.clientY - box.top)) / box.height,
    );
    this.ray.setFromCamera(at, this.stage.eye.camera);
    return at;
  }

  // What is under the pointer: { link, point, ... }, or null.
  under(event) {
    this.aim(event);
    const cut = this.stage.model.cutting ? this.stage.model.plane : null;
    const seen = this.stage.model.meshes.filter(({ mesh }) => mesh.visible).map(({ mesh }) => mesh);
    const hits = this.ray.intersectObjects(seen, false);
    return hits.find((hit) => !cut || cut.distanceToPoint(hit.point) >= 0) ?? null;
  }

  // The handle of a frame that is shown, under the pointer; it lies over all parts.
  handle(event) {
    this.aim(event);
    const shown = this.stage.symbols.handles.filter((ball) => ball.parent.visible);
    return this.ray.intersectObjects(shown, false)[0] ?? null;
  }

  down(event) {
    if (event.button !== 0) return;
    this.start = { x: event.clientX, y: event.clientY };
    if (this.tool !== "move" && !event.shiftKey) return;
    const hit = this.handle(event) ?? this.under(event);
    const link = hit?.object.userData.link;
    if (!link) return;
    event.stopImmediatePropagation();
    const group = this.stage.model.links.get(link);
    const own = hit.object.userData.point;
    const point = own ? new THREE.Vector3(...own) : group.worldToLocal(hit.point.clone());
    const facing = this.stage.eye.camera.getWorldDirection(new THREE.Vector3());
    this.pulled = {
      link,
      point: point.toArray(),
      plane: new THREE.Plane().setFromNormalAndCoplanarPoint(facing, group.localToWorld(point)),
      asked: 0,
    };
    this.stage.hub.ask("select", { link });
  }

  move(event) {
    const pulled = this.pulled;
    const now = performance.now();
    if (!pulled || now - pulled.asked < OFTEN) return;
    pulled.asked = now;
    this.pull(event);
  }

  pull(event) {
    this.aim(event);
    const target = this.ray.ray.intersectPlane(this.pulled.plane, new THREE.Vector3());
    const { link, point } = this.pulled;
    const turned = event.ctrlKey || event.metaKey;
    if (target) this.stage.hub.ask("pull", { link, point, target: target.toArray(), turned });
  }

  up(event) {
    if (this.pulled) {
      this.pull(event);
      this.stage.hub.ask("pull", { link: this.pulled.link, point: this.pulled.point, target: null });
      this.pulled = null;
    } else if (this.start && Math.hypot(event.clientX - this.start.x, event.clientY - this.start.y) < CLICK) {
      this.click(event);
    }
    this.start = null;
  }

  click(event) {
    const hit = this.under(event);
    if (this.tool === "measure") this.mark(hit, event);
    else this.stage.hub.ask("select", this.pointed(hit));
  }

  // The link under the pointer, and the point of it, in its own coordinates.
  pointed(hit) {
    const link = hit?.object.userData.link || null;
    const group = this.stage.model.links.get(link);
    return { link, point: group ? group.worldToLocal(hit.point.clone()).toArray() : null };
  }

  twice(event) {
    const hit = this.under(event);
    if (hit && this.tool === "look") this.stage.eye.go({ at: hit.point.toArray(), size: 0 });
  }

  // The first of two points, or the second; a corner that is near is meant.
  mark(hit, event) {
    if (!hit) return;
    const point = this.corner(hit, event);
    this.stage.symbols.measured(this.from ?? point, this.from ? point : null);
    this.from = this.from ? null : point;
  }

  corner(hit, event) {
    const box = this.stage.renderer.domElement.getBoundingClientRect();
    const places = hit.object.geometry.getAttribute("position");
    let best = hit.point.clone();
    let near = SNAP;
    for (const k of [hit.face.a, hit.face.b, hit.face.c]) {
      const corner = new THREE.Vector3().fromBufferAttribute(places, k).applyMatrix4(hit.object.matrixWorld);
      const seen = corner.clone().project(this.stage.eye.camera);
      const x = box.left + ((seen.x + 1) / 2) * box.width;
      const y = box.top + ((1 - seen.y) / 2) * box.height;
      const far = Math.hypot(x - event.clientX, y - event.clientY);
      if (far < near) [near, best] = [far, corner];
    }
    return best;
  }
}
