import { Columns3 } from 'lucide-react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { addContender } from '../../state/listen.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';

/** Puts an instrument, or one technique of it, into the line-up that was looked at last. */
export function AddToLineUp({
  instrumentId,
  articulation,
  name,
  small = false,
}: {
  instrumentId: string;
  /** Empty for the whole instrument. */
  articulation: string;
  name: string;
  /** A sign only, for rows of a table. */
  small?: boolean;
}) {
  const mayEdit = useMayEdit();
  const navigate = useNavigate();
  const add = () => {
    const { name: lineUp, known } = addContender(instrumentId, articulation);
    toast(known ? `${name} is in “${lineUp}” already.` : `${name} is in “${lineUp}” now.`, {
      action: { label: 'Listen', onClick: () => void navigate('/listen') },
    });
  };
  if (small)
    return (
      <Button
        look="icon"
        disabled={!mayEdit}
        aria-label={`Add ${name} to the line-up`}
        title="Add to the line-up"
        onClick={add}
      >
        <Columns3 size={12} aria-hidden />
      </Button>
    );
  return (
    <Button disabled={!mayEdit} title="Puts it beside others in Listen" onClick={add}>
      <Columns3 size={13} aria-hidden /> Add to the line-up
    </Button>
  );
}
