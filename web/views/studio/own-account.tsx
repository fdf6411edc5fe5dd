import { useState } from 'react';
import { toast } from 'sonner';
import { OwnNameShape, OwnPasswordShape, type SessionInfo } from '#api/index.ts';
import { request } from '../../state/api-client.ts';
import { useAct } from '../../state/queries.ts';
import { accept, loadSession, useSession } from '../../state/session.ts';
import { confirmLoss } from '../../ui/ask.tsx';
import { Button } from '../../ui/button.tsx';
import { TextField, useShapeForm } from '../../ui/form.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';

/** Name, password and sessions of the signed-in person. */
export function OwnAccount() {
  const user = useSession((state) => state.info?.user);
  const studio = useSession((state) => state.info?.studio);
  const endOthers = useAct(() => request('POST', '/me/end-other-sessions'), {
    done: () => void toast('Your other sessions have ended.'),
  });
  const leave = useAct(() => request('POST', '/members/leave'), { done: () => location.assign('/') });
  return (
    <section aria-label="Your account">
      <h2 className="font-serif text-lg font-semibold">You</h2>
      <p className="text-ink-3">{user?.email}</p>
      <NameForm name={user?.name ?? ''} />
      <GroupTitle>Password</GroupTitle>
      <PasswordForm />
      <GroupTitle>Sessions</GroupTitle>
      <p className="mb-1 text-ink-2">
        A session ends after half an hour without use, and after twelve hours. Edits that wait are kept.
      </p>
      <Button disabled={endOthers.isPending} onClick={() => endOthers.mutate(undefined)}>
        End my other sessions
      </Button>
      <GroupTitle>Studio</GroupTitle>
      <Button
        look="loss"
        onClick={() =>
          void confirmLoss(
            `Leave ${studio?.name ?? 'the studio'}?`,
            'What you wrote stays. You can only come back by an invitation.',
            'Leave',
          ).then((sure) => sure && leave.mutate(undefined))
        }
      >
        Leave {studio?.name}
      </Button>
    </section>
  );
}

function NameForm({ name }: { name: string }) {
  const form = useShapeForm(OwnNameShape, { name });
  const rename = useAct((said: OwnNameShape) => request<SessionInfo>('POST', '/me/name', said), {
    changes: ['members'],
    done: (info) => {
      accept(info);
      toast('Your name is changed.');
    },
  });
  return (
    <form onSubmit={(event) => void form.handleSubmit((said) => rename.mutate(said))(event)} noValidate>
      <TextField label="Name" error={form.formState.errors.name?.message} {...form.register('name')} />
      <Button type="submit" disabled={rename.isPending || !form.formState.isDirty}>
        Change the name
      </Button>
    </form>
  );
}

function PasswordForm() {
  const form = useShapeForm(OwnPasswordShape, { current: '', next: '' });
  const [trouble, setTrouble] = useState<string>();
  const { errors, isSubmitting } = form.formState;
  const submit = form.handleSubmit(async (said) => {
    setTrouble(undefined);
    try {
      await request('POST', '/me/password', said);
      await loadSession();
      form.reset();
      toast('Your password is changed; your other sessions have ended.');
    } catch (error) {
      setTrouble((error as Error).message);
    }
  });
  return (
    <form onSubmit={(event) => void submit(event)} noValidate>
      <TextField
        label="Present password"
        type="password"
        autoComplete="current-password"
        error={errors.current && 'Type your present password.'}
        {...form.register('current')}
      />
      <TextField
        label="New password"
        type="password"
        autoComplete="new-password"
        error={errors.next?.message}
        {...form.register('next')}
      />
      <Button type="submit" disabled={isSubmitting}>
        Change the password
      </Button>
      <div role="alert">{trouble && <Notice tone="warm">{trouble}</Notice>}</div>
    </form>
  );
}
