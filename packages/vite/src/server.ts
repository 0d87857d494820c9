/**
 * The server that saves what is tuned in a page, for other servers than Vite's.
 *
 * @module @umber-lens/vite/server
 */
export {
  isDocument,
  type Proposal,
  SAVE_PATH,
  SaveServer,
  type SaveServerOptions,
  type Wanted,
} from './save/save-server.js';
