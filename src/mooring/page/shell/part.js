// A part of the page as a component: it loads one of the page's own modules and gives it room.
export default {
  template: `<div></div>`,
  props: { module: String },
  async mounted() {
    const { hub } = await import("mooring-page/hub.js");
    const { mount } = await import(`mooring-page/${this.module}.js`);
    this.hub = hub;
    mount(this.$el, hub);
    if (this.module === "stage") {
      hub.answer = (message) => this.$emit("ask", message);
      hub.ask("hello");
    }
  },
  methods: {
    tell(kind, news) {
      this.hub.tell(kind, news);
    },
  },
};
