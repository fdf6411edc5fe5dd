import { Tabs } from 'radix-ui';
import { Ellipsis, Plus } from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { duplicate, newCue, newTemplate, removeDocument, rename } from '../../app/document-actions.ts';
import { openTemplate } from '../../app/opening.ts';
import { usePageTitle } from '../../app/page-title.ts';
import { useDocuments, useItem } from '../../state/documents.ts';
import { useMayEdit, useSession } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Menu } from '../../ui/menu.tsx';
import { Pane, Panes } from '../../ui/panes.tsx';
import { HistoryPane } from '../../app/history-pane.tsx';
import { TrackTable } from './track-table.tsx';

/** The studio's templates and cues, the tracks of the open template, and the history of both. */
export function TemplateView() {
  const templateId = useDocuments((state) => state.templateId);
  const cueId = useDocuments((state) => state.cueId);
  const template = useItem('template', templateId);
  const cue = useItem('cue', cueId);
  const mayEdit = useMayEdit();
  usePageTitle('Template', template?.name);
  return (
    <Panes id="template" names={['Border of the list', 'Border of the side pane']}>
      <Pane id="documents" size={224} least={160}>
        <DocumentList mayEdit={mayEdit} />
      </Pane>
      <Pane id="tracks" least={360}>
        <div className="flex h-full min-h-0 flex-col">
          {template ? (
            <TemplateHead template={template} mayEdit={mayEdit} />
          ) : (
            <p className="max-w-[60ch] p-8 text-ink-2">
              {templateId === undefined
                ? 'A template holds the tracks that every cue starts from. Make one at the left.'
                : 'Opening the template …'}
            </p>
          )}
          {template && <TrackTable mayEdit={mayEdit} />}
        </div>
      </Pane>
      <Pane id="history" size={272} least={200}>
        <Tabs.Root defaultValue="template" className="flex h-full min-h-0 flex-col">
          <Tabs.List aria-label="History" className="flex gap-1 border-b border-rule px-3.5 pt-2">
            {(['template', 'cue'] as const).map((kind) => (
              <Tabs.Trigger
                key={kind}
                value={kind}
                className="min-h-6 border-b-2 border-transparent px-1.5 pb-1 text-ink-2 data-[state=active]:border-cool data-[state=active]:font-semibold data-[state=active]:text-ink"
              >
                {kind === 'template' ? 'History of the template' : 'of the cue'}
              </Tabs.Trigger>
            ))}
          </Tabs.List>
          <Tabs.Content value="template" tabIndex={-1} className="min-h-0 flex-1 overflow-auto p-3.5">
            <HistoryPane kind="template" id={templateId} />
          </Tabs.Content>
          <Tabs.Content value="cue" tabIndex={-1} className="min-h-0 flex-1 overflow-auto p-3.5">
            {cue && <p className="mb-1 font-serif text-[15px] font-semibold">{cue.name}</p>}
            <HistoryPane kind="cue" id={cueId} />
          </Tabs.Content>
        </Tabs.Root>
      </Pane>
    </Panes>
  );
}

function TemplateHead({ template, mayEdit }: { template: { id: string; name: string }; mayEdit: boolean }) {
  const navigate = useNavigate();
  return (
    <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-rule px-3 py-1.5">
      <h1 className="min-w-0 truncate font-serif text-lg font-semibold">{template.name}</h1>
      <Menu
        label="More for this template"
        trigger={<Ellipsis size={15} aria-hidden />}
        groups={[
          [
            { text: 'Rename …', disabled: !mayEdit, onSelect: () => void rename('template', template) },
            {
              text: 'Duplicate …',
              disabled: !mayEdit,
              onSelect: () =>
                void duplicate('template', template).then((id) => id !== undefined && void openTemplate(id)),
            },
          ],
          [
            {
              text: 'Delete …',
              loss: true,
              disabled: !mayEdit,
              onSelect: () =>
                void removeDocument('template', template).then((gone) => {
                  const [next] = useSession.getState().overview?.templates ?? [];
                  if (gone && next) void openTemplate(next.id);
                }),
            },
          ],
        ]}
      />
      <div className="flex-1" />
      <Button
        disabled={!mayEdit}
        onClick={() => void newCue(template.id).then((id) => id && void navigate(`/cue/${id}`))}
      >
        <Plus size={14} aria-hidden /> New cue …
      </Button>
    </div>
  );
}

/** Templates, each with the cues that are made in it. */
function DocumentList({ mayEdit }: { mayEdit: boolean }) {
  const overview = useSession((state) => state.overview);
  const templateId = useDocuments((state) => state.templateId);
  const cueId = useDocuments((state) => state.cueId);
  const navigate = useNavigate();
  const [trouble, setTrouble] = useState<string>();
  const show = (id: string) => openTemplate(id).catch((error: Error) => setTrouble(error.message));
  return (
    <nav aria-label="Templates and cues" className="flex h-full flex-col overflow-auto bg-ground p-2">
      {(overview?.templates ?? []).map((template) => (
        <section key={template.id} className="mb-3">
          <button
            type="button"
            aria-current={template.id === templateId ? 'true' : undefined}
            onClick={() => void show(template.id)}
            className={`block min-h-6 w-full truncate px-1.5 text-left font-serif text-[15px] font-semibold ${template.id === templateId ? 'bg-cool-tint' : 'hover:bg-rule-soft'}`}
          >
            {template.name}
          </button>
          <ul>
            {(overview?.cues ?? [])
              .filter((cue) => cue.templateId === template.id)
              .map((cue) => (
                <li key={cue.id}>
                  <button
                    type="button"
                    title={`Open the cue ${cue.name}`}
                    onClick={() => void navigate(`/cue/${cue.id}`)}
                    className={`block min-h-6 w-full truncate pr-1.5 pl-4 text-left hover:bg-rule-soft ${cue.id === cueId ? 'font-semibold' : 'text-ink-2'}`}
                  >
                    {cue.name}
                  </button>
                </li>
              ))}
          </ul>
        </section>
      ))}
      {trouble && (
        <p role="alert" className="px-1.5 text-warm">
          {trouble}
        </p>
      )}
      <Button
        look="quiet"
        className="self-start"
        disabled={!mayEdit}
        onClick={() => void newTemplate().then((id) => id !== undefined && void show(id))}
      >
        <Plus size={13} aria-hidden /> New template …
      </Button>
    </nav>
  );
}
