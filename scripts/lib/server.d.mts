export function secretsOf(folder: string): { database: string; session: string };
export function startServer(options: {
  root: string;
  env: Record<string, string>;
  onLine?: (line: string) => void;
  onExit?: () => void;
}): Promise<{ stop: () => Promise<void>; kill: () => void; pid: number }>;
export function checkFolder(folder: string): void;
