import { useNavigate } from 'react-router';
import { usePageTitle } from '../../app/page-title.ts';
import { useSession } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Members } from './members.tsx';
import { OwnAccount } from './own-account.tsx';

/** People of the studio and one's own account. */
export function StudioView() {
  const info = useSession((state) => state.info);
  const navigate = useNavigate();
  usePageTitle('People', info?.studio?.name);
  return (
    <div className="h-full overflow-auto">
      <div className="mx-auto max-w-[980px] p-6">
        <div className="flex items-baseline gap-3">
          <h1 className="font-serif text-xl font-semibold">{info?.studio?.name}</h1>
          <div className="flex-1" />
          <Button look="quiet" onClick={() => void navigate(-1)}>
            Back to work
          </Button>
        </div>
        <div className="mt-4 grid gap-10 md:grid-cols-[minmax(0,1fr)_300px]">
          <Members />
          <OwnAccount />
        </div>
      </div>
    </div>
  );
}
