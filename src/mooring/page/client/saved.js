// A page by itself, in one file: the model, its open chains to jog, or a recording to look through.

import { hub } from "mooring-page/hub.js";
import { make } from "mooring-page/elements.js";
import { mount as mountChain } from "mooring-page/chain.js";
import { mount as mountStage } from "mooring-page/stage.js";
import { Chainwork } from "mooring-page/kinematics.js";
import { bytes, doubles, floats, typed } from "mooring-page/numbers.js";

const LAYERS = { visual: "parts", collision: "collision shapes", axes: "axes", names: "names", centres: "masses", ghost: "zero posture" };
const VIEWS = ["corner", "front", "back", "left", "right", "top", "bottom"];
const SPEEDS = [0.1, 0.25, 1, 4];

const { model } = window; // put there by the page around
const page = document.querySelector(".m-page");
const part = (kind) => page.querySelector(`.${kind}`);
mountStage(part("m-fill"), hub);
mountChain(part("m-chain-place"), hub);
const work = new Chainwork(model.structure, doubles(model.frame.q));
let given = floats(model.frame.poses);
const layers = { visual: true, edges: true, frames: "none", forces: true, opacity: 1 };

function show(why = "", joint = "") {
  hub.tell("frame", { poses: work.poses(given), q: Float64Array.from(work.q) });
  hub.tell("refused", { joint, why });
}

const answers = {
  jog: ({ joint, value }) => show(work.jog(joint, value), joint),
  type: ({ joint, text, unit }) => {
    const { motion } = model.structure.joints.find((other) => other.name === joint);
    const { value, why } = typed(text, motion, unit);
    if (why) hub.tell("refused", { joint, why });
    else answers.jog({ joint, value });
  },
  select: (said) => hub.tell("selection", { link: said.link ?? null, joint: said.joint ?? null }),
  swing: ({ joint }) => swing(joint),
  key: ({ key, ctrl }) => {
    const view = key === "f" ? "fit" : VIEWS[Number(key) - 1];
    if (view && !ctrl) hub.tell("view", view);
  },
};
hub.answer = (message) => answers[message.do]?.(message);

// A joint to and fro.
let swinging = null;
function swing(name) {
  swinging = null;
  hub.tell("swing", name);
  const joint = model.structure.joints.find((other) => other.name === name);
  if (!joint) return;
  const free = joint.motion === "rotation" ? Math.PI : 0.1;
  const [low, high] = [joint.lower ?? -free, joint.upper ?? free];
  const speed = joint.motion === "rotation" ? 0.6 : 0.12;
  const mine = (swinging = {});
  let way = 1;
  let before = performance.now();
  const tick = (now) => {
    if (swinging !== mine) return;
    const next = work.q[joint.coordinate] + (way * speed * (now - before)) / 1000;
    before = now;
    if (next >= high || next <= low) way = next >= high ? -1 : 1;
    const why = work.jog(name, Math.min(Math.max(next, low), high));
    show(why, name);
    if (!why) requestAnimationFrame(tick);
    else hub.tell("swing", null);
  };
  requestAnimationFrame(tick);
}

// The bar above the tree: postures that were solved when the page was saved.
for (const [name, posture] of Object.entries(model.postures)) {
  const button = make("button", "", name);
  button.dataset.posture = name;
  button.onclick = () => {
    swing(null);
    work.q.set(doubles(posture.q));
    given = floats(posture.poses);
    hub.tell("frame", { poses: given, q: Float64Array.from(work.q) });
    hub.tell("refused", { joint: "", why: "" });
  };
  part("m-postures").append(button);
}

// The bar at the top: what is shown.
const bar = part("m-head-bar");
for (const [key, text] of Object.entries(LAYERS)) {
  const label = make("label");
  const box = make("input");
  box.type = "checkbox";
  box.checked = !!layers[key];
  box.dataset.layer = key;
  box.onchange = () => {
    layers[key] = box.checked;
    hub.tell("layers", { ...layers });
  };
  label.append(box, text);
  bar.append(label);
}
const views = make("select");
for (const name of VIEWS) views.append(make("option", "", name));
views.onchange = () => hub.tell("view", views.value);
const tools = make("button", "", "measure");
tools.onclick = () => {
  const on = tools.textContent === "measure";
  tools.textContent = on ? "end measuring" : "measure";
  hub.tell("tool", on ? "measure" : "look");
};
const dark = make("button", "", "dark");
dark.onclick = () => {
  const on = document.body.classList.toggle("body--dark");
  dark.textContent = on ? "light" : "dark";
  hub.tell("theme", on ? "dark" : "light");
};
bar.append(views, tools, dark);

// The bar at the bottom: time.
if (model.recording) {
  const times = floats(model.recording.times);
  const poses = floats(model.recording.poses);
  const positions = floats(model.recording.q);
  const [links, count] = [7 * model.structure.links.length, model.structure.coordinates.length];
  const play = make("button", "", "Play");
  const scrub = make("input");
  Object.assign(scrub, { type: "range", min: 0, max: times.length - 1, step: 1, value: 0 });
  const speed = make("select");
  for (const value of SPEEDS) speed.append(new Option(`${value} x`, value, value === 1, value === 1));
  const clock = make("span");
  clock.style.minWidth = "110px";
  const at = (k) => {
    scrub.value = k;
    clock.textContent = `${times[k].toFixed(2)} s of ${times.at(-1).toFixed(2)} s`;
    given = poses.slice(links * k, links * (k + 1));
    work.q.set(positions.slice(count * k, count * (k + 1)));
    hub.tell("frame", { poses: given, q: Float64Array.from(work.q) });
  };
  let running = null;
  const pause = () => {
    running = null;
    play.textContent = "Play";
  };
  play.onclick = () => {
    if (running) return pause();
    swing(null);
    play.textContent = "Pause";
    const mine = (running = {});
    let k = Number(scrub.value) >= times.length - 1 ? 0 : Number(scrub.value);
    let clocked = times[k];
    let before = performance.now();
    const tick = (now) => {
      if (running !== mine) return;
      clocked += (Number(speed.value) * (now - before)) / 1000;
      before = now;
      while (k < times.length - 1 && times[k + 1] <= clocked) k += 1;
      at(k);
      if (k < times.length - 1) requestAnimationFrame(tick);
      else pause();
    };
    requestAnimationFrame(tick);
  };
  scrub.oninput = () => {
    pause();
    at(Number(scrub.value));
  };
  part("m-foot").append(play, speed, scrub, clock);
  at(0);
} else {
  part("m-foot").remove();
}

hub.tell("layers", { ...layers });
hub.tell("model", { ...model, data: bytes(model.glb) });
