// What explains the model: axes with their sense of turning, frames, centres of mass, inertias as
// blocks, contact forces, scans, measured distances.

import { THREE } from "nicegui-scene";
import { floats } from "mooring-page/numbers.js";

const UP = new THREE.Vector3(0, 0, 1);

// Drawn over everything, so that it is seen inside the parts.
function paint(color, opacity = 1) {
  return new THREE.MeshBasicMaterial({ color, transparent: true, opacity, depthTest: false });
}

function stick(length, radius, color) {
  const group = new THREE.Group();
  const shaft = new THREE.Mesh(new THREE.CylinderGeometry(radius, radius, 0.82 * length, 10), paint(color));
  shaft.rotation.x = Math.PI / 2;
  shaft.position.z = 0.41 * length;
  const tip = new THREE.Mesh(new THREE.ConeGeometry(3 * radius, 0.2 * length, 14), paint(color));
  tip.rotation.x = Math.PI / 2;
  tip.position.z = 0.9 * length;
  group.add(shaft, tip);
  group.traverse((part) => {
    part.renderOrder = 10;
    part.raycast = () => {};
  });
  return group;
}

// Three quarters of a ring about z with a head: the way positive turning goes.
function turning(radius, thick, color) {
  const group = new THREE.Group();
  const arc = 1.5 * Math.PI;
  group.add(new THREE.Mesh(new THREE.TorusGeometry(radius, thick, 8, 40, arc), paint(color)));
  const head = new THREE.Mesh(new THREE.ConeGeometry(3.4 * thick, 10 * thick, 14), paint(color));
  head.position.set(radius * Math.cos(arc), radius * Math.sin(arc), 0);
  head.rotation.z = arc;
  group.add(head);
  group.traverse((part) => {
    part.renderOrder = 10;
    part.raycast = () => {};
  });
  return group;
}

// Take something away for good: what it was drawn with is the graphics card's memory.
export function discard(object) {
  object?.removeFromParent();
  object?.traverse((part) => {
    part.geometry?.dispose();
    part.material?.dispose();
  });
}

export class Symbols {
  constructor(stage) {
    this.stage = stage;
    this.shown = { axes: false, frames: "none", centres: false, inertia: false, forces: true, names: false };
    this.forces = new THREE.Group();
    stage.scene.add(this.forces);
    this.dots = null;
    this.own = [];
    this.handles = [];
    this.ruler = null;
    this.some = new Set();
  }

  make(said) {
    for (const { object, label } of this.own) {
      discard(object);
      if (label) this.stage.labels.remove(label);
    }
    for (const arrow of [...this.forces.children]) discard(arrow);
    this.arrow = null;
    this.own = [];
    this.handles = [];
    this.said = said;
    const reach = this.stage.model.reach;
    for (const joint of said.joints) if (joint.axis) this.axis(joint, reach);
    for (const frame of said.frames) {
      const name = frame.role === "plain" ? frame.name : `${frame.name} (${frame.role})`;
      this.triad("frame", frame.name, frame.link, frame.place, name, 0.05 * reach);
    }
    for (const link of said.links) {
      this.triad("link", link.name, link.name, [0, 0, 0, 0, 0, 0, 1], link.name, 0.07 * reach);
      if (link.mass > 0) this.mass(link, reach);
      if (link.shown) this.name(link);
    }
    this.refresh();
  }

  keep(kind, name, link, object, text, at, weight = 0) {
    const group = this.stage.model.links.get(link);
    if (object) group.add(object);
    const item = { kind, name, link, object, label: null };
    item.label =
      text === null
        ? null
        : this.stage.labels.add(text, () => (item.on ? at(group) : null), { weight, kind });
    this.own.push(item);
  }

  axis(joint, reach) {
    const object = new THREE.Group();
    const color = this.said.colors.axes[joint.motion === "rotation" ? 2 : 1];
    const length = 0.17 * reach;
    const arrow = stick(length, 0.0024 * reach, color);
    arrow.position.z = -length / 3;
    object.add(arrow);
    if (joint.motion === "rotation") object.add(turning(0.032 * reach, 0.0016 * reach, color));
    object.quaternion.setFromUnitVectors(UP, new THREE.Vector3(...joint.axis));
    this.keep("axis", joint.name, joint.child, object, joint.name, () => object.localToWorld(new THREE.Vector3(0, 0, (2 * length) / 3)), 3);
  }

  triad(kind, name, link, place, text, length) {
    const object = new THREE.Group();
    object.position.fromArray(place, 0);
    object.quaternion.fromArray(place, 3);
    this.said.colors.axes.forEach((color, k) => {
      const arrow = stick(length, 0.022 * length, color);
      arrow.quaternion.setFromUnitVectors(UP, new THREE.Vector3().setComponent(k, 1));
      object.add(arrow);
    });
    if (kind === "frame") object.add(this.handle(link, place));
    this.keep(kind, name, link, object, text, () => object.getWorldPosition(new THREE.Vector3()), 2);
  }

  // What a named frame is taken by.
  handle(link, place) {
    const ball = new THREE.Mesh(new THREE.SphereGeometry(0.012 * this.stage.model.reach, 16, 12), paint("#d9822b", 0.9));
    ball.userData = { link, point: place.slice(0, 3) };
    ball.renderOrder = 11;
    this.handles.push(ball);
    return ball;
  }

  mass(link, reach) {
    const heaviest = Math.max(...this.said.links.map((other) => other.mass));
    const radius = reach * Math.max(0.006, 0.02 * Math.cbrt(link.mass / heaviest));
    const ball = new THREE.Mesh(new THREE.SphereGeometry(radius, 20, 14), paint(this.said.colors.mass, 0.95));
    ball.position.fromArray(link.centre);
    const text = `${link.name} ${Number(link.mass.toPrecision(4))} kg`;
    this.keep("centre", link.name, link.name, ball, text, () => ball.getWorldPosition(new THREE.Vector3()), 1);
    const block = new THREE.Group();
    const shape = new THREE.BoxGeometry(...link.box);
    block.add(new THREE.Mesh(shape, paint(this.said.colors.mass, 0.22)));
    block.add(new THREE.LineSegments(new THREE.EdgesGeometry(shape), new THREE.LineBasicMaterial({ color: this.said.colors.mass, depthTest: false })));
    block.position.fromArray(link.centre);
    block.quaternion.fromArray(link.box_turn);
    block.traverse((part) => {
      part.raycast = () => {};
      part.renderOrder = 8;
    });
    ball.raycast = () => {};
    ball.renderOrder = 9;
    this.keep("inertia", link.name, link.name, block, null, null);
  }

  name(link) {
    const spot = new THREE.Vector3();
    this.keep("name", link.name, link.name, null, link.name, (group) => spot.fromArray(link.centre).applyMatrix4(group.matrixWorld), 0);
  }

  layers(said) {
    this.shown = { ...this.shown, ...said };
    if (said.some) this.some = new Set(said.some);
    this.refresh();
  }

  select(chosen) {
    this.chosen = chosen;
    this.refresh();
  }

  refresh() {
    const { axes, frames, centres, inertia, names } = this.shown;
    const { link, joint } = this.chosen ?? {};
    for (const item of this.own) {
      const mine = item.link === link;
      item.on = {
        axis: axes || item.name === joint,
        frame: frames === "all" || (frames === "chosen" && mine) || this.some.has(item.name),
        link: frames === "all" || (frames === "chosen" && mine),
        centre: centres,
        inertia,
        name: names,
      }[item.kind];
      if (item.object) item.object.visible = item.on;
    }
    this.forces.visible = this.shown.forces;
    this.stage.dirty();
  }

  // Contact forces, as x, y, z, fx, fy, fz each; the longest arrow is an eighth of the model.
  push(forces) {
    if (!forces.length && !this.forces.children.length) return;
    const sizes = forces.map(([, , , x, y, z]) => Math.hypot(x, y, z));
    const largest = Math.max(...sizes, 1e-12);
    const reach = this.stage.model.reach;
    const way = new THREE.Vector3();
    let count = 0;
    forces.forEach(([x, y, z, fx, fy, fz], k) => {
      if (sizes[k] < 0.02 * largest) return;
      const arrow = this.forces.children[count] ?? this.forceArrow(reach);
      const length = (0.125 * reach * sizes[k]) / largest;
      const [shaft, tip] = arrow.children;
      shaft.scale.y = 0.82 * length;
      shaft.position.z = 0.41 * length;
      tip.scale.y = 0.2 * length;
      tip.position.z = 0.9 * length;
      arrow.position.set(x, y, z);
      arrow.quaternion.setFromUnitVectors(UP, way.set(fx, fy, fz).normalize());
      arrow.visible = true;
      count += 1;
    });
    for (const arrow of this.forces.children.slice(count)) arrow.visible = false;
  }

  // An arrow of length one; all of them share what they are drawn with, and are used again.
  forceArrow(reach) {
    const radius = 0.003 * reach;
    this.arrow ??= [
      new THREE.CylinderGeometry(radius, radius, 1, 10),
      new THREE.ConeGeometry(3 * radius, 1, 14),
      paint(this.said.colors.collision),
    ];
    const [shaft, tip, color] = this.arrow;
    const arrow = new THREE.Group();
    for (const shape of [shaft, tip]) {
      const part = new THREE.Mesh(shape, color);
      part.rotation.x = Math.PI / 2;
      part.renderOrder = 10;
      part.raycast = () => {};
      arrow.add(part);
    }
    this.forces.add(arrow);
    return arrow;
  }

  // Points that a scanner met, packed.
  scan(points) {
    discard(this.dots);
    this.dots = null;
    if (points) {
      const shape = new THREE.BufferGeometry();
      shape.setAttribute("position", new THREE.BufferAttribute(floats(points), 3));
      const pen = new THREE.PointsMaterial({ color: this.said?.colors.series[3] ?? "#b0508e", size: 4, sizeAttenuation: false });
      this.dots = new THREE.Points(shape, pen);
      this.dots.raycast = () => {};
      this.stage.scene.add(this.dots);
    }
    this.stage.dirty();
  }

  // A distance between two points (vectors), or none.
  measured(from, to) {
    discard(this.ruler?.line);
    if (this.ruler?.label) this.stage.labels.remove(this.ruler.label);
    this.ruler = null;
    if (from) {
      const end = to ?? from;
      const line = new THREE.Group();
      const pen = new THREE.LineBasicMaterial({ color: "#b0508e", depthTest: false });
      line.add(new THREE.Line(new THREE.BufferGeometry().setFromPoints([from, end]), pen));
      const dot = new THREE.SphereGeometry(0.004 * this.stage.model.reach, 12, 8);
      for (const at of [from, end]) {
        const mark = new THREE.Mesh(dot, paint("#b0508e"));
        mark.position.copy(at);
        line.add(mark);
      }
      line.traverse((part) => {
        part.raycast = () => {};
        part.renderOrder = 12;
      });
      this.stage.scene.add(line);
      let label = null;
      if (to) {
        const way = to.clone().sub(from);
        const mm = (v) => Number((1000 * v).toFixed(1));
        const text = `${mm(way.length())} mm (x ${mm(way.x)}, y ${mm(way.y)}, z ${mm(way.z)})`;
        const middle = from.clone().add(to).multiplyScalar(0.5);
        label = this.stage.labels.add(text, () => middle, { weight: 9, kind: "measured" });
      }
      this.ruler = { line, label };
    }
    this.stage.dirty();
  }

  // The triangle of the picture that is drawn is right only with places up to date.
  place() {
    this.stage.model.group.updateMatrixWorld(true);
  }
}
