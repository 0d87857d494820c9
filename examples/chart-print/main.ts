import { runExample } from '../example.js';
import { createChartPrint } from './scene.js';

runExample(createChartPrint);
