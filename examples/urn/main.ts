import { runExample } from '../example.js';
import { createUrn } from './scene.js';

runExample(createUrn);
