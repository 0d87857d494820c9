import { runExample } from '../example.js';
import { createKelp, kelpControls } from './scene.js';

// `?blades=40000` in the address makes fewer.
const blades = Number(new URLSearchParams(location.search).get('blades')) || 1_000_000;
runExample((scene, placeModel) => createKelp(scene, placeModel, blades), kelpControls);
