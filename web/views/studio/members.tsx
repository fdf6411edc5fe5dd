import { useState } from 'react';
import { toast } from 'sonner';
import { INVITATION_DAYS, ROLES, type InvitationInfo, type MemberInfo, type Role } from '#api/index.ts';
import { request } from '../../state/api-client.ts';
import { useAct, useInvitations, useMembers } from '../../state/queries.ts';
import { useSession } from '../../state/session.ts';
import { confirmLoss } from '../../ui/ask.tsx';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { dayAndTime } from '../../ui/day-and-time.ts';
import { GroupTitle, Notice } from '../../ui/heading.tsx';

const ROLE_OPTIONS = [...ROLES].reverse().map((role) => ({
  value: role,
  text: { owner: 'owner: everything', editor: 'editor: write and mix', viewer: 'viewer: look and listen' }[
    role
  ],
}));

/** Who belongs to the studio, what each may do, and invitations. */
export function Members() {
  const info = useSession((state) => state.info);
  const members = useMembers();
  const isOwner = info?.studio?.role === 'owner';
  return (
    <section aria-label="Members">
      <h2 className="font-serif text-lg font-semibold">People</h2>
      {members.isPending && <p className="text-ink-3">Looking …</p>}
      {members.isError && <Notice tone="warm">{members.error.message}</Notice>}
      <ul className="mt-1">
        {(members.data ?? []).map((member) => (
          <MemberRow
            key={member.userId}
            member={member}
            isOwner={isOwner}
            isMe={member.userId === info?.user?.id}
          />
        ))}
      </ul>
      {isOwner && <Invite />}
    </section>
  );
}

function MemberRow({ member, isOwner, isMe }: { member: MemberInfo; isOwner: boolean; isMe: boolean }) {
  const { userId, name, email, role } = member;
  const changes = ['members'];
  const setRole = useAct((next: Role) => request('POST', `/members/${userId}/role`, { role: next }), {
    changes,
  });
  const handOver = useAct(() => request('POST', `/members/${userId}/hand-over`), { changes });
  const remove = useAct(() => request('DELETE', `/members/${userId}`), { changes });
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule-soft py-2">
      <div className="min-w-[160px] flex-1">
        <div className="font-semibold">
          {name} {isMe && <span className="font-normal text-ink-3">(you)</span>}
        </div>
        <div className="text-xs text-ink-3">{email}</div>
      </div>
      {isOwner ? (
        <>
          <Choice
            label={`Role of ${name}`}
            hideLabel
            value={role}
            onChange={(event) => setRole.mutate(event.target.value as Role)}
            options={ROLE_OPTIONS}
          />
          {!isMe && (
            <>
              <Button
                className="py-0"
                title="Makes them owner and you an editor"
                onClick={() =>
                  void confirmLoss(
                    `Hand the studio over to ${name}?`,
                    'They become its owner and you an editor. Only they can give it back.',
                    'Hand over',
                  ).then((sure) => sure && handOver.mutate(undefined))
                }
              >
                Hand over
              </Button>
              <Button
                look="loss"
                className="py-0"
                onClick={() =>
                  void confirmLoss(
                    `Take ${name} out of the studio?`,
                    'What they wrote stays. Edits that wait in their browser are not taken any more.',
                    'Take out',
                  ).then((sure) => sure && remove.mutate(undefined))
                }
              >
                Take out
              </Button>
            </>
          )}
        </>
      ) : (
        <span className="text-ink-2">{role}</span>
      )}
    </li>
  );
}

function Invite() {
  const [role, setRole] = useState<Role>('editor');
  const [days, setDays] = useState(7);
  const [link, setLink] = useState<string>();
  const open = useInvitations(true);
  const invite = useAct(() => request<InvitationInfo>('POST', '/invitations', { role, days }), {
    changes: ['invitations'],
    done: ({ path }) => setLink(`${location.origin}${path ?? ''}`),
  });
  const withdraw = useAct((id: string) => request('DELETE', `/invitations/${id}`), {
    changes: ['invitations'],
  });
  return (
    <>
      <GroupTitle>Invite somebody</GroupTitle>
      <p className="mb-2 text-ink-2">
        A link lets one person in. Send it by whatever means you trust; Farlo sends nothing.
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <Choice
          label="As"
          value={role}
          onChange={(event) => setRole(event.target.value as Role)}
          options={ROLE_OPTIONS}
        />
        <Choice
          label="for"
          value={String(days)}
          onChange={(event) => setDays(Number(event.target.value))}
          options={INVITATION_DAYS.map((count) => ({
            value: String(count),
            text: count === 1 ? '1 day' : `${count} days`,
          }))}
        />
        <Button look="main" disabled={invite.isPending} onClick={() => invite.mutate(undefined)}>
          Make a link
        </Button>
      </div>
      {link && (
        <Notice tone="cool">
          This link is shown only now:
          <div className="mt-1 flex gap-2">
            <input
              readOnly
              aria-label="Link of the invitation"
              value={link}
              onFocus={(event) => event.target.select()}
              className="min-w-0 flex-1 rounded-md border border-rule bg-raised px-2 py-1"
            />
            <Button
              onClick={() =>
                void navigator.clipboard
                  .writeText(link)
                  .then(() => toast('The link is copied.'))
                  .catch(() => toast.error('The browser does not let the link be copied; copy it by hand.'))
              }
            >
              Copy
            </Button>
          </div>
        </Notice>
      )}
      {(open.data ?? []).length > 0 && (
        <ul className="mt-2" aria-label="Open invitations">
          {(open.data ?? []).map((invitation) => (
            <li
              key={invitation.id}
              className="flex items-center gap-2 border-b border-rule-soft py-1 text-ink-2"
            >
              <span className="flex-1">
                Open invitation as {invitation.role}, until {dayAndTime(invitation.expires)}
              </span>
              <Button className="py-0" onClick={() => withdraw.mutate(invitation.id)}>
                Withdraw
              </Button>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
