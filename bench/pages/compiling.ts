import './first-lit-box.js';
import { compileMaterialShader } from 'umber-lens/shaders';

Object.assign(window, { compileMaterialShader });
