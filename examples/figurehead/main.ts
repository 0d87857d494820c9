import { runExample } from '../example.js';
import { createFigurehead, figureheadControls } from './scene.js';

runExample(createFigurehead, figureheadControls);
