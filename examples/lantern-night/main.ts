import { runExample } from '../example.js';
import { createLanternNight } from './scene.js';

runExample(createLanternNight);
