// Compares the compressed size of our first view with that of a bare React and Ant Design shell: everything a browser
// fetches before it shows the page, gzip at level 6. Prints one ratio; exit 1 where it does not hold.
import { existsSync, readFileSync, rmSync, symlinkSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { gzipSync } from 'node:zlib';

const HOLD = 1.3;
const here = dirname(fileURLToPath(import.meta.url));
const root = resolve(here, '../..');
const web = join(root, 'web');
const { build } = await import(pathToFileURL(join(web, 'node_modules/vite/dist/node/index.js')).href);
const { default: react } = await import(pathToFileURL(join(web, 'node_modules/@vitejs/plugin-react/dist/index.js')).href);

// the yardstick is built with the very packages of the front end
const modules = join(here, 'node_modules');
if (!existsSync(modules)) symlinkSync(join(web, 'node_modules'), modules, 'dir');

async function sizes(project, out) {
  await build({
    root: project,
    configFile: false,
    logLevel: 'error',
    plugins: [react()],
    build: { target: 'es2022', outDir: out, emptyOutDir: true, manifest: true, chunkSizeWarningLimit: 5000 },
  });
  return JSON.parse(readFileSync(join(out, '.vite/manifest.json'), 'utf8'));
}

/** Adds what an entry needs before it runs: itself, what it imports, and their styles. */
function needed(manifest, key, files) {
  const entry = manifest[key];
  if (!entry || files.has(entry.file)) return files;
  files.add(entry.file);
  (entry.css ?? []).forEach((file) => files.add(file));
  (entry.imports ?? []).forEach((each) => needed(manifest, each, files));
  return files;
}

function compressed(out, files) {
  return [...files].reduce((sum, file) => sum + gzipSync(readFileSync(join(out, file)), { level: 6 }).length, 0);
}

const ours = join(root, 'var/shell-ours');
const bare = join(root, 'var/shell-bare');
const manifest = await sizes(web, ours);
const yardstick = await sizes(here, bare);
rmSync(modules, { force: true });
const desk = Object.keys(manifest).find((key) => key.endsWith('desk/Desk.tsx'));
const first = needed(manifest, desk, needed(manifest, 'index.html', new Set()));
const shell = needed(yardstick, 'index.html', new Set());
const kilobytes = (bytes) => `${(bytes / 1024).toFixed(0)} KB`;
const mine = compressed(ours, first);
const theirs = compressed(bare, shell);
console.log(`first view (entry and Desk): ${kilobytes(mine)} in ${first.size} files; bare shell: ${kilobytes(theirs)} in ${shell.size} files`);
const ratio = mine / theirs;
console.log(`ratio: ${ratio.toFixed(2)} (hold: at most ${HOLD.toFixed(2)})`);
process.exit(ratio <= HOLD ? 0 : 1);
