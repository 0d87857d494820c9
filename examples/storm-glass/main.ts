import { runExample } from '../example.js';
import { addControls, createStormGlass } from './scene.js';

runExample(createStormGlass, addControls);
