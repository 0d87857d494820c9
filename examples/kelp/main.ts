import { runExample } from '../example.js';
import { createKelp, kelpControls } from './scene.js';

runExample(createKelp, kelpControls);
