import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { Trouble } from './say.mjs';

const FOLDER = 'core/engine/kernel';
const OPTIONS =
  '-O3 --noAssert --runtime stub --enable simd --enable threads ' +
  '--importMemory --sharedMemory --initialMemory 1 --maximumMemory 65536';

/**
 * Compiles the kernel from `core/engine/kernel/assembly` into `core/engine/kernel/code.ts` where its source, the compiler or its
 * options are others than last time. @throws Trouble with what the compiler says
 */
export function ensureKernel(root) {
  const source = join(root, FOLDER, 'assembly');
  const out = join(root, FOLDER, 'code.ts');
  const stamp = `// Compiled from ${stampOf(root, source)} by scripts/lib/kernel.mjs.`;
  if (existsSync(out) && readFileSync(out, 'utf8').startsWith(stamp)) return;
  const work = mkdtempSync(join(root, FOLDER, '.compiling-'));
  try {
    const binary = join(work, 'kernel.wasm');
    const compiler = join(root, 'node_modules/assemblyscript/bin/asc.js');
    const done = spawnSync(
      process.execPath,
      [compiler, join(source, 'index.ts'), '-o', binary, ...OPTIONS.split(' ')],
      {
        cwd: root,
        encoding: 'utf8',
      },
    );
    if (done.status !== 0 || !existsSync(binary))
      throw new Trouble(`Compiling the kernel of the engine failed:\n${done.stdout}${done.stderr}`);
    // Put in place whole: another command may read it at this moment.
    const text = join(work, 'code.ts');
    writeFileSync(
      text,
      `${stamp}\n/** The kernel as WebAssembly, in base 64. */\nexport const KERNEL_CODE =\n  '${readFileSync(binary).toString('base64')}';\n`,
    );
    renameSync(text, out);
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}

function stampOf(root, source) {
  const hash = createHash('sha256').update(OPTIONS);
  hash.update(readFileSync(join(root, 'node_modules/assemblyscript/package.json')));
  for (const name of readdirSync(source).sort()) hash.update(name).update(readFileSync(join(source, name)));
  return hash.digest('hex').slice(0, 16);
}
