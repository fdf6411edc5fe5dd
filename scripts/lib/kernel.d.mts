export function ensureKernel(root: string): void;
