import { runExample } from '../example.js';
import { createLampRoom, lampRoomControls } from './scene.js';

runExample(createLampRoom, lampRoomControls);
