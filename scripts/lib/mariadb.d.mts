export function portTaken(port: number): Promise<boolean>;
export function startMariadb(options: {
  folder: string;
  port: number;
  name: string;
  password: string;
  onExit?: () => void;
}): Promise<{ stop: () => Promise<void>; kill: () => void; pid: number }>;
export function leftOverDatabase(folder: string): number | undefined;
