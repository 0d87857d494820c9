import { runExample } from '../example.js';
import { addControls, createSignalFlags } from './scene.js';

runExample(createSignalFlags, addControls);
