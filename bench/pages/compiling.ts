import './first-lit-box.js';
import { compileMaterial } from 'umber-lens/shaders';

Object.assign(window, { compileMaterial });
