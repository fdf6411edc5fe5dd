import { useRouteError } from 'react-router';

/** Shown where a view could not be opened, for example because the server is away or was renewed. */
export function ViewTrouble() {
  const error = useRouteError();
  const isLoading = error instanceof TypeError;
  return (
    <main className="grid h-full place-items-center" role="alert">
      <div className="max-w-[52ch]">
        <p>
          {isLoading
            ? 'This view could not be loaded: the server does not answer, or Farlo was renewed since the page was opened.'
            : 'This view met something unexpected and was closed.'}{' '}
          Your edits are kept.
        </p>
        <button type="button" className="mt-2 text-cool underline" onClick={() => location.reload()}>
          Load the page again
        </button>
      </div>
    </main>
  );
}
