/** One line of news. */
export const say = (line) => console.log(`  ${line}`);

/** A failure the user can do something about: printed as its sentence, without a stack. */
export class Trouble extends Error {}

/** Runs a script's body; troubles become sentences and exit code 1. */
export async function runScript(body) {
  try {
    await body();
  } catch (error) {
    console.error(error instanceof Trouble ? `\n  ${error.message}\n` : error);
    process.exit(1);
  }
}
