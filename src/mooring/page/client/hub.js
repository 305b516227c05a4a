// Between the parts of a page: what one tells, others hear; what they ask goes to whoever answers,
// a server on the live page, the page itself on a saved one.

class Hub {
  constructor() {
    this.ears = new Map();
    this.last = new Map();
    this.answer = () => {};
  }

  // Hear a kind of news, and at once the last that was told of it.
  on(kind, ear) {
    if (!this.ears.has(kind)) this.ears.set(kind, new Set());
    this.ears.get(kind).add(ear);
    if (this.last.has(kind)) ear(this.last.get(kind));
    return () => this.ears.get(kind).delete(ear);
  }

  tell(kind, news) {
    this.last.set(kind, news);
    for (const ear of this.ears.get(kind) ?? []) ear(news);
  }

  ask(what, said = {}) {
    this.answer({ do: what, ...said });
  }
}

export const hub = new Hub();
