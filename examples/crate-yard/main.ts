import { runExample } from '../example.js';
import { crateYardControls } from './panel.js';
import { ALL, createCrateYard } from './scene.js';

// `?crates=10000` in the address makes fewer.
const crates = Number(new URLSearchParams(location.search).get('crates')) || ALL;
runExample((scene, placeModel) => createCrateYard(scene, placeModel, crates), crateYardControls);
