import { configure } from '@zip.js/zip.js';

// The page's policy allows no worker from a blob, and what goes into these zip files is packed already.
configure({ useWebWorkers: false });

export * from '@zip.js/zip.js';
