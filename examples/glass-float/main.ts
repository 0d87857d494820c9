import { runExample } from '../example.js';
import { createGlassFloats } from './scene.js';

runExample(createGlassFloats);
