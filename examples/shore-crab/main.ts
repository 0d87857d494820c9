import { runExample } from '../example.js';
import { createShoreCrab, shoreCrabControls } from './scene.js';

runExample(createShoreCrab, shoreCrabControls);
