// The view: a renderer that draws when something changed, lights, ground, and the parts in it.

import { THREE } from "nicegui-scene";
import { Eye } from "mooring-page/eye.js";
import { Hands } from "mooring-page/hands.js";
import { listen } from "mooring-page/keys.js";
import { Labels } from "mooring-page/labels.js";
import { Model } from "mooring-page/model.js";
import { panels } from "mooring-page/panels.js";
import { discard, Symbols } from "mooring-page/symbols.js";

const THEMES = {
  light: { sky: "#f4f6f7", line: "#c9d0d4", ink: "#1f2a33", shade: 0.16 },
  dark: { sky: "#171d22", line: "#37424a", ink: "#0c1013", shade: 0.4 },
};

// Between two pictures in motion [ms]: longer than this is slow, and longer than that no motion.
const SLOW = 80;
const STILL = 700;

class Stage {
  constructor(place, hub) {
    this.hub = hub;
    this.place = place;
    this.renderer = new THREE.WebGLRenderer({ antialias: true, preserveDrawingBuffer: true });
    this.ratio = Math.min(window.devicePixelRatio, 2);
    this.renderer.setPixelRatio(this.ratio);
    this.fine = true;
    this.drawn = this.lateness = 0;
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = THREE.PCFSoftShadowMap;
    this.renderer.localClippingEnabled = true;
    place.appendChild(this.renderer.domElement);
    this.scene = new THREE.Scene();
    this.lights();
    this.labels = new Labels(place, this);
    this.eye = new Eye(this);
    this.model = new Model(this);
    this.symbols = new Symbols(this);
    this.hands = new Hands(this);
    listen(hub);
    panels(place.closest(".m-page"));
    this.frames = 0;
    this.theme("light");
    this.listen();
    new ResizeObserver(() => this.resize()).observe(place);
    this.resize();
  }

  lights() {
    this.scene.add(new THREE.HemisphereLight("#ffffff", "#b9bdb5", 1.7));
    this.sun = new THREE.DirectionalLight("#ffffff", 2.0);
    this.sun.castShadow = true;
    this.sun.shadow.mapSize.set(2048, 2048);
    this.sun.shadow.radius = 3;
    this.sun.shadow.bias = -0.0004;
    this.sun.shadow.normalBias = 0.01;
    this.scene.add(this.sun, this.sun.target);
    this.floor = new THREE.Group();
    this.scene.add(this.floor);
  }

  listen() {
    const hub = this.hub;
    hub.on("theme", (name) => this.theme(name));
    hub.on("model", (news) => this.model.load(news));
    hub.on("frame", (news) => this.model.move(news));
    hub.on("layers", (news) => {
      this.model.layers(news);
      this.symbols.layers(news);
      this.dirty();
    });
    hub.on("selection", (news) => {
      this.model.select(news);
      this.symbols.select(news);
      this.eye.follow(news, null);
      this.dirty();
    });
    hub.on("overlaps", (links) => this.model.overlap(links));
    hub.on("scan", (points) => this.symbols.scan(points));
    hub.on("view", (name) => this.eye.view(name));
    hub.on("camera", (said) => this.eye.recall(said));
    hub.on("section", (said) => this.model.cut(said));
    hub.on("tool", (name) => this.hands.take(name));
    hub.on("follow", (on) => this.eye.follow(hub.last.get("selection"), on));
    hub.on("go", (place) => this.eye.go(place));
    hub.on("bring", () => this.eye.beware());
  }

  theme(name) {
    this.look = THEMES[name] ?? THEMES.light;
    this.scene.background = new THREE.Color(this.look.sky);
    this.model?.ink(this.look.ink);
    this.ground();
    this.dirty();
  }

  // What it stands on: a grid, and a sheet that shows only shadows.
  ground() {
    for (const part of [...this.floor.children]) discard(part);
    const model = this.model;
    if (!model || model.ground === null || model.ground === undefined) return;
    const reach = model.reach;
    let spacing = 10 ** Math.floor(Math.log10(reach));
    if (reach / spacing < 2) spacing /= 2;
    const half = Math.ceil((2 * reach) / spacing) * spacing;
    const grid = new THREE.GridHelper(2 * half, Math.round((2 * half) / spacing), this.look.line, this.look.line);
    grid.rotation.x = Math.PI / 2;
    grid.material.transparent = true;
    grid.material.opacity = 0.75;
    const sheet = new THREE.Mesh(
      new THREE.PlaneGeometry(8 * half, 8 * half),
      new THREE.ShadowMaterial({ opacity: this.look.shade }),
    );
    sheet.receiveShadow = true;
    this.floor.add(grid, sheet);
    this.floor.position.z = model.ground - 1e-4 * reach;
  }

  // The light follows the size and the place of the model.
  shine(centre, reach) {
    this.sun.position.set(centre.x + 0.5 * reach, centre.y - 0.8 * reach, centre.z + 1.5 * reach);
    this.sun.target.position.copy(centre);
    const seen = this.sun.shadow.camera;
    Object.assign(seen, { left: -reach, right: reach, top: reach, bottom: -reach, near: 0.01 * reach, far: 5 * reach });
    seen.updateProjectionMatrix();
  }

  resize() {
    const { clientWidth: width, clientHeight: height } = this.place;
    if (!width || !height) return;
    this.renderer.setSize(width, height);
    this.eye.shape(width / height);
    this.dirty();
  }

  dirty() {
    if (this.waiting) return;
    this.waiting = true;
    requestAnimationFrame(() => {
      this.waiting = false;
      this.draw();
    });
  }

  draw() {
    this.hurry();
    this.eye.pursue();
    this.symbols.place();
    this.renderer.render(this.scene, this.eye.camera);
    this.labels.place(this.eye.camera);
    this.frames += 1;
  }

  // Where pictures come too slowly one after the other, as on computers that draw by processor
  // alone, those in motion are coarser; the one that stays is always fine.
  hurry() {
    const now = performance.now();
    const late = now - this.drawn > SLOW && now - this.drawn < STILL;
    this.drawn = now;
    this.lateness = late ? this.lateness + 1 : Math.max(0, this.lateness - 1);
    if (this.lateness >= 3) this.refine(false);
    clearTimeout(this.settling);
    if (!this.fine) {
      this.settling = setTimeout(() => {
        this.refine(true);
        this.draw();
      }, STILL);
    }
  }

  refine(fine) {
    if (fine === this.fine) return;
    this.fine = fine;
    this.lateness = 0;
    this.renderer.setPixelRatio(fine ? this.ratio : this.ratio / 2);
  }

  // For tests and for pictures: where a link is, column by column.
  pose(link) {
    const group = this.model.links.get(link);
    group.updateMatrixWorld(true);
    return [...group.matrixWorld.elements];
  }
}

export function mount(place, hub) {
  document.documentElement.lang ||= "en";
  const stage = new Stage(place, hub);
  window.mooring = { stage, hub };
  return stage;
}
