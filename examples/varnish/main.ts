import { runExample } from '../example.js';
import { createVarnish, varnishControls } from './scene.js';

runExample(createVarnish, varnishControls);
