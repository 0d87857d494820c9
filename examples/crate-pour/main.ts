import { runExample } from '../example.js';
import { createCratePour, cratePourControls } from './scene.js';

runExample(createCratePour, cratePourControls);
