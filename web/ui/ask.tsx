import { useState } from 'react';
import { create } from 'zustand';
import { Button } from './button.tsx';
import { Dialog } from './dialog.tsx';

interface Question {
  title: string;
  about: string;
  /** Text on the button that does it. */
  action: string;
  /** Asks for a text, filled in with this; without it the question is yes or no. */
  text?: string;
  /** What stands before the text; a name unless given. */
  label?: string;
  /** A sentence where the text cannot be meant. */
  check?: (text: string) => string | undefined;
  loss?: boolean;
  answer: (text: string | undefined) => void;
}

const useQuestion = create<{ question: Question | undefined }>(() => ({ question: undefined }));

const ask = (question: Omit<Question, 'answer'>): Promise<string | undefined> =>
  new Promise((resolve) => {
    useQuestion.setState({
      question: {
        ...question,
        answer: (text) => {
          useQuestion.setState({ question: undefined });
          resolve(text);
        },
      },
    });
  });

/** Asks for a name. @returns undefined when the user changed their mind */
export const askName = (
  title: string,
  about: string,
  action: string,
  text = '',
): Promise<string | undefined> => ask({ title, about, action, text });

/** Asks for a number. @param read what is meant, or a sentence why it is none; @returns undefined when the user changed their mind */
export const askNumber = async (
  title: string,
  about: string,
  action: string,
  { label, first, read }: { label: string; first: number; read: (text: string) => number | string },
): Promise<number | undefined> => {
  const check = (text: string) => {
    const meant = read(text);
    return typeof meant === 'string' ? meant : undefined;
  };
  const answer = await ask({ title, about, action, text: String(first), label, check });
  return answer === undefined ? undefined : Number(read(answer));
};

/** Asks before something is lost. */
export const confirmLoss = async (title: string, about: string, action: string): Promise<boolean> =>
  (await ask({ title, about, action, loss: true })) !== undefined;

/** Shows the question that is asked now; once in the page. */
export function Asking() {
  const question = useQuestion((state) => state.question);
  return question ? <QuestionDialog key={question.title} {...question} /> : null;
}

function QuestionDialog({
  title,
  about,
  action,
  text: first,
  label = 'Name',
  check,
  loss = false,
  answer,
}: Question) {
  const [text, setText] = useState(first ?? '');
  const [wrong, setWrong] = useState<string>();
  return (
    <Dialog title={title} about={about} narrow onClose={() => answer(undefined)}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const refused = check?.(text.trim());
          setWrong(refused);
          if (refused === undefined) answer(text.trim());
        }}
      >
        {first !== undefined && (
          <label className="flex items-center gap-3">
            {label}
            <input
              className="flex-1 rounded-md border border-rule bg-raised px-2 py-1"
              value={text}
              maxLength={120}
              onFocus={(event) => event.target.select()}
              onChange={(event) => setText(event.target.value)}
              aria-invalid={wrong !== undefined}
              autoFocus
            />
          </label>
        )}
        {wrong !== undefined && (
          <p role="alert" className="mt-1 text-xs text-warm">
            {wrong}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => answer(undefined)}>Not now</Button>
          <Button
            type="submit"
            look={loss ? 'loss' : 'main'}
            disabled={first !== undefined && text.trim() === ''}
            autoFocus={first === undefined}
          >
            {action}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
