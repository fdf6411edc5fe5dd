import { edit, useDocuments, useItem } from '../../state/documents.ts';
import { decibels } from '../../ui/decibels.ts';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { Ruler } from '../../ui/ruler.tsx';

/** The shared hall, and how keys are named: settings of the whole template. */
export function HallPane({ mayEdit }: { mayEdit: boolean }) {
  const template = useItem(
    'template',
    useDocuments((state) => state.templateId),
  );
  if (!template) return null;
  const change = (fields: Record<string, unknown>, merge: string) =>
    edit('Shared hall', [{ kind: 'template', id: template.id, op: 'update', fields }], merge);
  return (
    <>
      <GroupTitle>Shared hall, all tracks</GroupTitle>
      <Ruler
        label="Early"
        value={template.hallEarlyDb}
        low={-60}
        high={12}
        rest={0}
        step={1}
        unit="dB"
        format={decibels}
        disabled={!mayEdit}
        help="First reflections of the shared hall: they tell the distance."
        onChange={(hallEarlyDb) => change({ hallEarlyDb }, 'early')}
      />
      <Ruler
        label="Tail"
        value={template.hallTailDb}
        low={-60}
        high={12}
        rest={0}
        step={1}
        unit="dB"
        format={decibels}
        disabled={!mayEdit}
        help="The decaying tail of the shared hall: it tells the size."
        onChange={(hallTailDb) => change({ hallTailDb }, 'tail')}
      />
      <Choice
        label="Middle C is"
        className="mt-1"
        disabled={!mayEdit}
        value={String(template.middleC)}
        onChange={(event) => change({ middleC: Number(event.target.value) }, 'middle')}
        options={[
          { value: '4', text: 'C4' },
          { value: '3', text: 'C3' },
        ]}
      />
    </>
  );
}
