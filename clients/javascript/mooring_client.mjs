// A client of simulations and machines that speak Mooring's messages, over WebSocket, in JSON.
//
// This one file needs nothing of Mooring. In a browser, and with Node.js from 22 on, it needs
// nothing else either; with older ones the package `ws`.
//
//   const machine = await connect("ws://127.0.0.1:8640", { name: "gait" });
//   await machine.ask("take", { rate: 100, lockstep: true });
//   let state = await machine.turn();
//   while (state.time < 5) {
//     const goal = { hip: 0.2 * Math.sin(state.time) };
//     state = await machine.advance([{ kind: "command", positions: goal }]);
//   }

const Socket = globalThis.WebSocket ?? (await import("ws")).WebSocket;

// What was said is not done; `code` says why, for programs.
export class Refused extends Error {
  constructor(code, words) {
    super(words);
    this.code = code;
  }
}

export async function connect(url, { name = "controller" } = {}) {
  const socket = new Socket(url);
  await new Promise((resolve, reject) => {
    socket.onopen = resolve;
    socket.onerror = () => reject(new Error(`nobody answers at ${url}`));
  });
  const machine = new Machine(socket);
  machine.welcome = await machine.ask("hello", { name, version: "1" });
  return machine;
}

class Machine {
  #socket;
  #number = 0;
  #answers = new Map();
  #turns = [];
  #waiting = [];
  #gone = null;

  // `welcome`: what there is; `state`: the newest; `told`: called with every message.
  welcome = null;
  state = null;
  told = () => {};

  constructor(socket) {
    this.#socket = socket;
    socket.onmessage = (event) => this.#hear(JSON.parse(event.data));
    socket.onclose = (event) => this.#lose(new Error(`the connection is gone ${event.reason}`));
  }

  // Say something; what is wrong with it rejects the next turn.
  say(kind, fields = {}) {
    this.#socket.send(JSON.stringify({ kind, ...fields }));
  }

  // Say something and wait for its answer.
  ask(kind, fields = {}) {
    const id = ++this.#number;
    const wanted = { hello: "welcome", diagnose: "findings" }[kind] ?? "answer";
    return new Promise((resolve, reject) => {
      if (this.#gone) {
        reject(this.#gone);
        return;
      }
      this.#answers.set(id, { wanted, resolve, reject });
      this.say(kind, { id, ...fields });
    });
  }

  // In lock-step: this controller's next turn, and what the state is then.
  turn() {
    return new Promise((resolve, reject) => {
      if (this.#turns.length) {
        resolve(this.#turns.shift());
      } else if (this.#gone) {
        reject(this.#gone);
      } else {
        this.#waiting.push({ resolve, reject });
      }
    });
  }

  // In lock-step: give orders, let time go on, and wait for the next turn.
  advance(orders = [], periods = 1) {
    this.say("advance", { orders, periods });
    return this.turn();
  }

  close() {
    this.say("bye");
    this.#socket.close();
  }

  #hear(message) {
    this.told(message);
    if (message.kind === "state") {
      this.state = message;
      if (message.turn) {
        const next = this.#waiting.shift();
        next ? next.resolve(message) : this.#turns.push(message);
      }
    } else if (message.kind === "answer" && !this.#answers.has(message.id) && !message.ok) {
      this.#waiting.shift()?.reject(new Refused(message.code, message.words));
    } else if (message.kind === "event" && ["ended", "interrupted"].includes(message.what)) {
      this.#lose(new Error(message.words));
    }
    for (const [id, asked] of this.#answers) {
      const answers = message.kind === "answer" && message.id === id;
      if (answers && !message.ok) {
        this.#answers.delete(id);
        asked.reject(new Refused(message.code, message.words));
      } else if (answers || (asked.wanted !== "answer" && message.kind === asked.wanted)) {
        this.#answers.delete(id);
        asked.resolve(message);
      }
    }
  }

  #lose(why) {
    this.#gone = why;
    for (const { reject } of [...this.#waiting.splice(0), ...this.#answers.values()]) {
      reject(why);
    }
    this.#answers.clear();
  }
}
