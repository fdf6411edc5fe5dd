import { chooseCores, coresWanted, machineCores, useCores } from '../sound/cores.ts';
import { Choice } from '../ui/field.tsx';

/** How many cores of this machine play and bounce. */
export function CoresChoice({
  disabled = false,
  hideLabel = false,
}: {
  disabled?: boolean;
  hideLabel?: boolean;
}) {
  const cores = useCores((state) => state.chosen) ?? coresWanted();
  return (
    <Choice
      label="Cores"
      hideLabel={hideLabel}
      value={String(cores)}
      disabled={disabled}
      onChange={(event) => chooseCores(Number(event.target.value))}
      options={Array.from({ length: Math.max(machineCores(), cores) }, (_, i) => ({
        value: String(i + 1),
        text: i + 1 === machineCores() ? `All (${i + 1})` : String(i + 1),
      }))}
    />
  );
}
