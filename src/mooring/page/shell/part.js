// A part of the page as a component: it loads one of the page's own modules and gives it room.
export default {
  template: `<div></div>`,
  props: { module: String },
  created() {
    // What is told before the modules are there waits for them.
    this.told = [];
  },
  async mounted() {
    const { hub } = await import("mooring-page/hub.js");
    const { mount } = await import(`mooring-page/${this.module}.js`);
    mount(this.$el, hub);
    if (this.module === "stage") {
      hub.answer = (message) => this.$emit("ask", message);
      hub.ask("hello");
    }
    this.hub = hub;
    for (const [kind, news] of this.told.splice(0)) hub.tell(kind, news);
  },
  methods: {
    tell(kind, news) {
      if (this.hub) this.hub.tell(kind, news);
      else this.told.push([kind, news]);
    },
  },
};
