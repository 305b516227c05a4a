// Where links are, on a page without a server: open chains and couplings; loops stay as they were.

import { THREE } from "nicegui-scene";

export class Chainwork {
  constructor(said, q) {
    this.said = said;
    this.q = Float64Array.from(q);
    this.number = new Map(said.links.map((link, k) => [link.name, k]));
    this.joints = said.joints.map((joint) => ({
      ...joint,
      spot: new THREE.Matrix4().compose(
        new THREE.Vector3().fromArray(joint.place, 0),
        new THREE.Quaternion().fromArray(joint.place, 3),
        new THREE.Vector3(1, 1, 1),
      ),
      way: joint.axis && new THREE.Vector3(...joint.axis),
    }));
  }

  // Bring a joint to a position; says why if it goes no farther.
  jog(name, value) {
    const joint = this.joints.find((other) => other.name === name);
    if (joint.looped) return `${name} is in a loop, which only Mooring itself can move`;
    if (joint.follows) {
      const left = value - joint.offset - this.beside(joint);
      const why = this.jog(joint.follows, left / joint.ratio);
      return why && `${name} follows ${joint.follows}: ${why}`;
    }
    const held = Math.min(Math.max(value, joint.lower ?? -Infinity), joint.upper ?? Infinity);
    this.q[joint.coordinate] = held;
    this.follow();
    return held === value ? "" : `${name} ends here`;
  }

  // What the other joints that a follower follows add to it.
  beside(joint) {
    let sum = 0;
    for (const [name, ratio] of Object.entries(joint.also)) {
      sum += ratio * this.q[this.joints.find((other) => other.name === name).coordinate];
    }
    return sum;
  }

  follow() {
    // Followers may follow followers; as many rounds as there are joints are always enough.
    for (let round = 0; round < this.joints.length; round++) {
      let changed = false;
      for (const joint of this.joints) {
        if (!joint.follows) continue;
        const leader = this.joints.find((other) => other.name === joint.follows);
        const own = joint.ratio * this.q[leader.coordinate] + joint.offset;
        const told = own + this.beside(joint);
        changed ||= told !== this.q[joint.coordinate];
        this.q[joint.coordinate] = told;
      }
      if (!changed) return;
    }
  }

  // Poses of all links as the server packs them, from that of the root and of what floats.
  poses(given) {
    const places = new Array(this.number.size);
    const out = Float32Array.from(given);
    const read = (k) =>
      new THREE.Matrix4().compose(
        new THREE.Vector3().fromArray(given, 7 * k),
        new THREE.Quaternion().fromArray(given, 7 * k + 3),
        new THREE.Vector3(1, 1, 1),
      );
    places[0] = read(0);
    for (const joint of this.joints) {
      const child = this.number.get(joint.child);
      if (joint.type === "floating") {
        places[child] = read(child);
        continue;
      }
      const place = places[this.number.get(joint.parent)].clone().multiply(joint.spot);
      if (joint.axis) place.multiply(this.motion(joint));
      places[child] = place;
      const at = new THREE.Vector3();
      const turn = new THREE.Quaternion();
      place.decompose(at, turn, new THREE.Vector3());
      at.toArray(out, 7 * child);
      turn.toArray(out, 7 * child + 3);
    }
    return out;
  }

  motion(joint) {
    const value = this.q[joint.coordinate];
    const move = new THREE.Matrix4();
    if (joint.motion === "rotation") return move.makeRotationAxis(joint.way, value);
    return move.makeTranslation(...joint.way.clone().multiplyScalar(value).toArray());
  }
}
