/** Every version of the library; an earlier one can be brought back. */

import { useLibraryVersions, useRestoreLibrary } from "../../api/queries";
import { momentFormat } from "../../app/moments";
import { Dialog } from "../../ui/Dialog";
import { Button, Loading, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";

export function Versions({ newest, onClose }: { newest: number; onClose: () => void }) {
  const versions = useLibraryVersions();
  const restore = useRestoreLibrary();
  const { day } = useWindowView();
  const moment = momentFormat(day.time_zone, { dateStyle: "medium", timeStyle: "short" });
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="Versions of the library">
      {restore.isError && <Refused error={restore.error} />}
      {versions.isError && <Refused error={versions.error} />}
      {!versions.data && !versions.isError && <Loading what="the versions" />}
      <ol>
        {versions.data?.map((version) => (
          <li key={version.number} className="flex items-center gap-3 border-rule border-b py-1.5 text-sm">
            <span className="font-bold">{version.number}</span>
            <span className="flex-1">
              {version.origin}
              <span className="block text-ink-2 text-xs">{moment.format(new Date(version.created_at))}</span>
            </span>
            {version.number === newest ? (
              <span className="text-ink-2 text-xs">in use</span>
            ) : (
              <Button
                disabled={restore.isPending}
                onClick={() => restore.mutate(version.number, { onSuccess: onClose })}
              >
                Restore
              </Button>
            )}
          </li>
        ))}
      </ol>
    </Dialog>
  );
}
