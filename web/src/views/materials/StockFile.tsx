/** Stock as a file: taken out as it should be there now, and taken in whole, or not where a row is wrong. */
import { useRef } from "react";
import { fileAddress } from "../../api/client";
import type { useTakeStock } from "../../api/queries";
import { Button, buttonLook } from "../../ui/parts";

export function StockFile({ take }: { take: ReturnType<typeof useTakeStock> }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <a href={fileAddress("/api/stock/file.csv")} download className={buttonLook()}>
        Save stock as CSV
      </a>
      <Button disabled={take.isPending} onClick={() => input.current?.click()}>
        Import stock
      </Button>
      <input
        ref={input}
        type="file"
        aria-label="File of stock"
        accept=".csv,text/csv,text/plain"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) take.mutate(file);
          event.target.value = "";
        }}
      />
    </>
  );
}
