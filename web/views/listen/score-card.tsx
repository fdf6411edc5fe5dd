import { useState } from 'react';
import { X } from 'lucide-react';
import { weightedScore } from '#core/listen/index.ts';
import { useList } from '../../state/documents.ts';
import {
  addCriterion,
  criteriaOf,
  giveScore,
  removeCriterion,
  useScores,
  weighCriterion,
} from '../../state/listen.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Ruler } from '../../ui/ruler.tsx';

const MIDDLE = 5;

/** Scores by the studio's criteria, their weighted mean, and the criteria themselves. */
export function ScoreCard({ instrumentId }: { instrumentId: string }) {
  const criteria = criteriaOf(useList('criterion'));
  const scores = useScores(instrumentId);
  const mayEdit = useMayEdit();
  const [shaping, setShaping] = useState(false);
  const mean = weightedScore(criteria, (id) => scores.get(id)?.score);
  return (
    <div>
      {criteria.map((criterion) => {
        const score = scores.get(criterion.id)?.score;
        return (
          <div key={criterion.id} className="flex items-end gap-1">
            <div className="min-w-0 flex-1">
              {shaping ? (
                <Ruler
                  label={`${criterion.name}: weight`}
                  value={criterion.weight}
                  low={0}
                  high={3}
                  rest={1}
                  step={0.5}
                  disabled={!mayEdit}
                  help="How much this criterion counts in the mean; 0 leaves it out."
                  onChange={(weight) => weighCriterion(criterion.id, weight)}
                />
              ) : (
                <Ruler
                  label={criterion.name}
                  value={score ?? MIDDLE}
                  unset={score === undefined}
                  low={0}
                  high={10}
                  rest={MIDDLE}
                  step={1}
                  disabled={!mayEdit}
                  format={(value) => (score === undefined ? '–' : `${Math.round(value * 10) / 10}`)}
                  help={`Your score for ${criterion.name.toLowerCase()}, 0 to 10; it counts ${criterion.weight} ×.`}
                  onChange={(value) => giveScore(instrumentId, criterion.id, value)}
                />
              )}
            </div>
            {shaping && (
              <button
                type="button"
                disabled={!mayEdit}
                aria-label={`Remove ${criterion.name}`}
                onClick={() => removeCriterion(criterion.id)}
                className="mb-1 grid size-6 place-items-center text-ink-3 hover:text-warm disabled:opacity-50"
              >
                <X size={13} aria-hidden />
              </button>
            )}
          </div>
        );
      })}
      {shaping && mayEdit && <NewCriterion />}
      <div className="flex items-center justify-between">
        <span className="text-ink-2">
          {mean === undefined ? 'no score yet' : `mean ${mean.toFixed(1)} of 10`}
        </span>
        <Button look="quiet" className="py-0" aria-pressed={shaping} onClick={() => setShaping(!shaping)}>
          {shaping ? 'Done' : 'Criteria and weights'}
        </Button>
      </div>
    </div>
  );
}

function NewCriterion() {
  const [name, setName] = useState('');
  return (
    <form
      className="my-1 flex gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() === '') return;
        addCriterion(name.trim());
        setName('');
      }}
    >
      <input
        aria-label="Name of a criterion of your own"
        placeholder="A criterion of your own"
        className="h-7 min-w-0 flex-1 rounded-md border border-rule bg-raised px-1.5 placeholder:text-ink-3"
        maxLength={60}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.stopPropagation()}
      />
      <Button type="submit" disabled={name.trim() === ''}>
        Add
      </Button>
    </form>
  );
}
