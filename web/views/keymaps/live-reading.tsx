import { describeTrigger } from '#core/keymap/index.ts';
import { pitchName, type MiddleC } from '#core/music/index.ts';
import type { InstrumentSummary } from '#api/index.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import type { LiveReading } from '../../sound/reading.ts';
import { useVocabulary } from '../../state/keymaps.ts';

/** What is played now, what it came to, why, and what sounds. */
export function ReadingLine({ instrument, middleC }: { instrument: InstrumentSummary; middleC: MiddleC }) {
  const reading = usePerformance((state) => state.reading);
  const vocabulary = useVocabulary();
  return (
    <p
      aria-live="polite"
      aria-label="What was played"
      className="flex min-h-[30px] items-center gap-1.5 border-t border-rule px-3 text-ink-2"
    >
      {reading ? (
        <>
          <b className="text-ink">{said(reading, middleC)}</b>
          <span aria-hidden>→</span>
          <span className="font-serif text-ink italic">{vocabulary.term(reading.articulation).name}</span>
          <span>
            {reading.because.length > 0
              ? `because of ${reading.because.map((one) => describeTrigger(one, middleC)).join(' and ')}`
              : 'as chosen'}
          </span>
          {reading.sounding.length > 0 && (
            <span className="min-w-0 truncate">
              · sounds{' '}
              {reading.sounding
                .map(({ index, levelDb }) => {
                  const name = instrument.articulations[index]?.name ?? '';
                  return levelDb === 0 ? name : `${name} ${levelDb > 0 ? '+' : '−'}${Math.abs(levelDb)} dB`;
                })
                .join(', ')}
            </span>
          )}
        </>
      ) : (
        <span>Play: what it selects, why, and what sounds is told here.</span>
      )}
    </p>
  );
}

function said({ bytes: [status, data1, data2], taken }: LiveReading, middleC: MiddleC): string {
  switch (status & 0xf0) {
    case 0x90:
      return data2 > 0
        ? `${pitchName(data1, middleC)}${taken ? ' (switch)' : `, velocity ${data2}`}`
        : `${pitchName(data1, middleC)} let go`;
    case 0x80:
      return `${pitchName(data1, middleC)} let go`;
    case 0xb0:
      return `Controller ${data1} at ${data2}`;
    case 0xc0:
      return `Program ${data1 + 1}`;
    default:
      return 'Bend';
  }
}
