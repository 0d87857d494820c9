import { runExample } from '../example.js';
import { createJellyfish } from './scene.js';

runExample(createJellyfish);
