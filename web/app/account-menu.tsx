import { useNavigate } from 'react-router';
import { useHere } from '../state/live.ts';
import { chooseStudio, signOut, useSession } from '../state/session.ts';
import { initials } from '../ui/initials.ts';
import { Menu } from '../ui/menu.tsx';
import { useSingleKeys } from './keys.ts';
import { useTheme } from './theme-choice.ts';

const Badge = ({ name, own = false }: { name: string; own?: boolean }) => (
  <span
    title={own ? name : `${name} is here`}
    className={`grid h-5 min-w-6 place-items-center rounded-sm border px-1 text-xs font-semibold ${own ? 'border-ink-3 text-ink' : 'border-rule bg-cool-tint text-ink-2'}`}
  >
    <span aria-hidden>{initials(name)}</span>
    <span className="sr-only">{own ? name : `${name} is here`}</span>
  </span>
);

const MOST_SHOWN = 3;

/** Who is here, and what belongs to oneself: theme, keys, studios, sign-out. */
export function AccountMenu() {
  const info = useSession((state) => state.info);
  const here = useHere((state) => state.here);
  const { theme, toggle } = useTheme();
  const navigate = useNavigate();
  const others = here.filter(({ userId }) => userId !== info?.user?.id);
  const name = info?.user?.name ?? '';
  return (
    <div className="flex shrink-0 items-center gap-1">
      <span role="group" aria-label="Also here" className="flex items-center gap-1">
        {others.slice(0, MOST_SHOWN).map((one) => (
          <Badge key={one.userId} name={one.name} />
        ))}
        {others.length > MOST_SHOWN && (
          <span
            className="text-xs text-ink-3"
            title={others
              .slice(MOST_SHOWN)
              .map((one) => one.name)
              .join(', ')}
          >
            +{others.length - MOST_SHOWN}
          </span>
        )}
      </span>
      <Menu
        label={`${name}: theme, keys, studio, sign out`}
        trigger={<Badge name={name} own />}
        head={
          <>
            <div className="font-semibold">{name}</div>
            <div className="text-xs text-ink-3">
              {info?.studio?.role} in {info?.studio?.name}
            </div>
            {others.length > 0 && (
              <div className="mt-1 text-xs text-ink-2">
                Also here: {others.map((one) => one.name).join(', ')}
              </div>
            )}
          </>
        }
        groups={[
          [
            { text: 'People and account', onSelect: () => void navigate('/studio') },
            { text: theme === 'light' ? 'Use the dark theme' : 'Use the light theme', onSelect: toggle },
            { text: 'Keys', keys: '?', onSelect: () => useSingleKeys.setState({ help: true }) },
          ],
          (info?.studios ?? [])
            .filter(({ id }) => id !== info?.studio?.id)
            .map((studio) => ({
              text: `Work in ${studio.name}`,
              onSelect: () => void chooseStudio(studio.id),
            })),
          [{ text: 'Sign out', onSelect: () => void signOut() }],
        ]}
      />
    </div>
  );
}
