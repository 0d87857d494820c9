import DefaultTheme from 'vitepress/theme';
import ExampleCards from './ExampleCards.vue';
import LiveExample from './LiveExample.vue';
import './style.css';

export default {
  extends: DefaultTheme,
  enhanceApp({ app }) {
    app.component('LiveExample', LiveExample);
    app.component('ExampleCards', ExampleCards);
  },
};
