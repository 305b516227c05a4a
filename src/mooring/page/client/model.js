// The robot in the view: groups of meshes, one a link, moved all at once.

import { THREE, GLTFLoader } from "nicegui-scene";
import { doubles, floats } from "mooring-page/numbers.js";

const CREASE = 30;
const CHOSEN = new THREE.Color("#d9822b");
const WRONG = new THREE.Color("#d0342c");

export class Model {
  constructor(stage) {
    this.stage = stage;
    this.group = new THREE.Group();
    stage.scene.add(this.group);
    this.links = new Map();
    this.meshes = [];
    this.edges = new Map();
    this.shown = { visual: true, collision: false, ghost: false, edges: true, opacity: 1 };
    this.wrong = new Set();
    this.plane = new THREE.Plane(new THREE.Vector3(0, 0, -1), 0);
    this.cutting = null;
    this.loader = new GLTFLoader();
    this.reach = 1;
    this.q = new Float64Array(0);
    this.number = 0;
  }

  async load(news) {
    const number = ++this.number;
    const data = news.data ?? (await (await fetch(news.url)).arrayBuffer());
    const file = await this.loader.parseAsync(data, "");
    // A newer model came while this one was being read.
    if (number !== this.number) return;
    const before = this.meshes.length ? this.reach : 0;
    this.said = news.structure;
    this.clear();
    this.names = this.said.links.map((link) => link.name);
    for (const name of this.names) {
      const group = new THREE.Group();
      group.name = name;
      this.links.set(name, group);
      this.group.add(group);
    }
    const land = new THREE.Group();
    this.group.add(land);
    for (const node of [...file.scene.children]) this.adopt(node, land);
    this.neutral = floats(news.neutral);
    this.place(this.links, floats(news.frame.poses));
    this.q = doubles(news.frame.q);
    this.measure();
    this.ground = news.structure.ground ?? this.floor();
    this.makeGhost();
    this.stage.symbols.make(this.said);
    this.layers(this.shown);
    this.cut(this.cutting);
    this.select(this.stage.hub.last.get("selection") ?? null);
    this.stage.ground();
    this.stage.eye.size(this.reach);
    this.stage.eye.meet(before);
    if (this.latest) this.move(this.latest);
    this.loaded = number;
    this.stage.dirty();
  }

  clear() {
    for (const { mesh } of this.meshes) {
      mesh.geometry.dispose();
      mesh.material.dispose();
    }
    for (const line of this.edges.values()) line.dispose();
    this.skin?.dispose();
    this.group.clear();
    this.links.clear();
    this.meshes = [];
    this.edges.clear();
    this.latest = null;
  }

  adopt(node, land) {
    const { link, layer } = node.userData;
    const owner = link === "" ? land : this.links.get(link);
    const found = [];
    node.traverse((part) => part.isMesh && found.push(part));
    owner.add(node);
    for (const mesh of found) {
      // Matt paint, which is also the cheapest to draw where a processor does it all.
      const opacity = mesh.material.opacity;
      mesh.material = new THREE.MeshLambertMaterial({ color: mesh.material.color, side: THREE.DoubleSide });
      mesh.castShadow = layer === "visual";
      mesh.receiveShadow = layer === "visual";
      mesh.userData.link = link;
      const line = layer === "visual" ? this.outline(mesh.geometry) : null;
      const edges = line ? new THREE.LineSegments(line, this.pen()) : null;
      if (edges) mesh.add(edges);
      this.meshes.push({ mesh, link, layer, edges, opacity, color: mesh.material.color.clone() });
    }
  }

  // Edges of equal parts are found once.
  outline(geometry) {
    if (!this.edges.has(geometry.uuid)) this.edges.set(geometry.uuid, new THREE.EdgesGeometry(geometry, CREASE));
    return this.edges.get(geometry.uuid);
  }

  pen() {
    this.ballpoint ??= new THREE.LineBasicMaterial({ color: this.stage.look.ink, transparent: true, opacity: 0.55 });
    return this.ballpoint;
  }

  ink(color) {
    this.pen().color.set(color);
  }

  // Poses as the server packs them: x, y, z, qx, qy, qz, qw of each link.
  place(groups, poses) {
    this.names.forEach((name, k) => {
      const group = groups.get(name);
      group.position.fromArray(poses, 7 * k);
      group.quaternion.fromArray(poses, 7 * k + 3);
    });
  }

  move(news) {
    this.latest = news;
    if (!this.names || !news.poses) return;
    const poses = floats(news.poses);
    if (poses.length !== 7 * this.names.length) return;
    this.place(this.links, poses);
    this.q = doubles(news.q);
    this.stage.eye.heed();
    this.stage.symbols.push(news.forces ?? []);
    this.stage.dirty();
  }

  // Around what is to be seen of each link, in the scene.
  boxes() {
    this.group.updateMatrixWorld(true);
    const boxes = new Map();
    for (const { mesh, layer, link } of this.meshes) {
      if (layer !== "visual" || link === "") continue;
      if (!boxes.has(link)) boxes.set(link, new THREE.Box3());
      boxes.get(link).expandByObject(mesh);
    }
    return boxes;
  }

  measure() {
    const box = new THREE.Box3();
    for (const each of this.boxes().values()) box.union(each);
    if (box.isEmpty()) box.setFromCenterAndSize(new THREE.Vector3(), new THREE.Vector3(1, 1, 1));
    this.box = box;
    this.centre = box.getCenter(new THREE.Vector3());
    this.reach = Math.max(box.getSize(new THREE.Vector3()).length(), 1e-3);
    this.stage.shine(this.centre, 1.2 * this.reach);
  }

  // A machine that no ground was given for stands at height zero, or below that on its lowest point.
  floor() {
    const { min, max } = this.box;
    const tall = max.z - min.z;
    return min.z >= -0.15 * tall && min.z <= 0.02 * tall ? 0 : min.z;
  }

  makeGhost() {
    this.ghost = new THREE.Group();
    const groups = new Map();
    const skin = this.skin = new THREE.MeshBasicMaterial({ color: "#5a7184", transparent: true, opacity: 0.16, depthWrite: false });
    for (const name of this.names) {
      const group = new THREE.Group();
      groups.set(name, group);
      this.ghost.add(group);
    }
    for (const { mesh, link, layer } of this.meshes) {
      if (layer !== "visual" || link === "") continue;
      const twin = new THREE.Mesh(mesh.geometry, skin);
      const inverse = this.links.get(link).matrixWorld.clone().invert();
      twin.applyMatrix4(inverse.multiply(mesh.matrixWorld));
      twin.raycast = () => {};
      groups.get(link).add(twin);
    }
    this.place(groups, this.neutral);
    this.group.add(this.ghost);
  }

  layers(said) {
    this.shown = { ...this.shown, ...said };
    const { visual, collision, ghost, edges, opacity } = this.shown;
    for (const item of this.meshes) {
      const looks = item.layer === "visual";
      const own = item.opacity * (looks ? opacity : visual ? 0.45 : 0.9);
      item.mesh.visible = looks ? visual : collision;
      item.mesh.material.transparent = own < 1;
      item.mesh.material.opacity = own;
      item.mesh.material.depthWrite = own === 1;
      item.mesh.material.needsUpdate = true;
      item.mesh.castShadow = looks && own > 0.6;
      if (item.edges) item.edges.visible = edges;
    }
    if (this.ghost) this.ghost.visible = ghost;
    this.tint();
  }

  select(chosen) {
    this.chosen = chosen?.link ?? null;
    this.tint();
  }

  overlap(links) {
    this.wrong = new Set(links);
    this.tint();
    this.stage.dirty();
  }

  tint() {
    for (const { mesh, link, color } of this.meshes) {
      mesh.material.color.copy(color);
      if (this.wrong.has(link)) mesh.material.color.lerp(WRONG, 0.75);
      else if (link !== "" && link === this.chosen) mesh.material.color.lerp(CHOSEN, 0.55);
    }
  }

  // A section: what lies beyond a plane across x, y or z is left out.
  cut(said) {
    this.cutting = said?.axis ? said : null;
    const planes = this.cutting ? [this.plane] : [];
    if (this.cutting) {
      const k = "xyz".indexOf(said.axis);
      const low = this.box.min.getComponent(k);
      const high = this.box.max.getComponent(k);
      const at = low + said.share * (high - low);
      const way = said.flip ? 1 : -1;
      this.plane.normal.set(0, 0, 0).setComponent(k, way);
      this.plane.constant = -way * at;
    }
    for (const { mesh } of this.meshes) mesh.material.clippingPlanes = planes;
    this.pen().clippingPlanes = planes;
    this.stage.dirty();
  }
}
