import express, { type RequestHandler } from 'express';

const DEEPEST = 32;
/** Type of the error that text nested too deeply gives. */
export const TOO_DEEP = 'entity.too.deep';
const [QUOTE, BACKSLASH, OPEN_LIST, CLOSE_LIST, OPEN_OBJECT, CLOSE_OBJECT] = [...'"\\[]{}'].map((sign) =>
  sign.charCodeAt(0),
);

/** Deepest nesting of lists and objects in JSON text; brackets inside strings do not count. */
export function nesting(bytes: Uint8Array): number {
  let depth = 0;
  let deepest = 0;
  let inString = false;
  for (let i = 0; i < bytes.length; i++) {
    const byte = bytes[i];
    if (inString) {
      if (byte === BACKSLASH) i++;
      else if (byte === QUOTE) inString = false;
    } else if (byte === QUOTE) inString = true;
    else if (byte === OPEN_LIST || byte === OPEN_OBJECT) deepest = Math.max(deepest, ++depth);
    else if (byte === CLOSE_LIST || byte === CLOSE_OBJECT) depth--;
  }
  return deepest;
}

/** Reads a JSON body. Text that is nested too deeply is refused before anything walks through it. */
export function jsonBody(kilobytes: number): RequestHandler {
  return express.json({
    limit: kilobytes * 1024,
    verify: (_request, _response, bytes) => {
      // The body reader writes into what it catches, so that it must be a plain error.
      if (nesting(bytes) > DEEPEST) throw Object.assign(new Error('nested too deeply'), { type: TOO_DEEP });
    },
  });
}
