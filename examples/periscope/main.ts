import { runExample } from '../example.js';
import { createPeriscope } from './scene.js';

runExample(createPeriscope);
