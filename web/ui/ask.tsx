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

/** Asks before something is lost. */
export const confirmLoss = async (title: string, about: string, action: string): Promise<boolean> =>
  (await ask({ title, about, action, loss: true })) !== undefined;

/** Shows the question that is asked now; once in the page. */
export function Asking() {
  const question = useQuestion((state) => state.question);
  return question ? <QuestionDialog key={question.title} {...question} /> : null;
}

function QuestionDialog({ title, about, action, text: first, loss = false, answer }: Question) {
  const [text, setText] = useState(first ?? '');
  return (
    <Dialog title={title} about={about} narrow onClose={() => answer(undefined)}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          answer(text.trim());
        }}
      >
        {first !== undefined && (
          <label className="flex items-center gap-3">
            Name
            <input
              className="flex-1 rounded-md border border-rule bg-raised px-2 py-1"
              value={text}
              maxLength={120}
              onFocus={(event) => event.target.select()}
              onChange={(event) => setText(event.target.value)}
              autoFocus
            />
          </label>
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
