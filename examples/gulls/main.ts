import { runExample } from '../example.js';
import { createGulls, gullControls } from './scene.js';

runExample(createGulls, gullControls);
