/** The small parts every view is made of: buttons, panels, figures, notices. */

import { type ButtonHTMLAttributes, type HTMLAttributes, type ReactNode, type Ref, useEffect } from "react";
import type { Refusal } from "../api/client";
import { Said } from "./Said";

type Weight = "plain" | "strong";
type Size = "usual" | "small" | "touch" | "large";
type ButtonProps = ButtonHTMLAttributes<HTMLButtonElement> & { weight?: Weight; size?: Size };

const BUTTON =
  "inline-flex items-center gap-2 rounded-lg border font-semibold text-sm transition-colors " +
  "disabled:cursor-not-allowed disabled:opacity-55";
const SIZE = {
  usual: "min-h-9 px-3.5 py-1.5",
  small: "min-h-8 px-2.5 py-1",
  touch: "min-h-[48px] px-4 py-2",
  large: "min-h-[56px] px-5 py-2",
};
const WEIGHT = {
  plain: "border-trail/60 bg-paper text-ink hover:border-crust",
  strong: "border-ink bg-ink text-paper hover:bg-ink-2",
};

export const buttonLook = (weight: Weight = "plain", size: Size = "usual") =>
  `${BUTTON} ${SIZE[size]} ${WEIGHT[weight]}`;

export function Button({ weight = "plain", size = "usual", className = "", ...rest }: ButtonProps) {
  return <button type="button" className={`${buttonLook(weight, size)} ${className}`} {...rest} />;
}

type PanelProps = HTMLAttributes<HTMLElement> & { label?: string; ref?: Ref<HTMLElement> };

export function Panel({ children, className = "", label, ref, ...rest }: PanelProps) {
  const look = `rounded-xl border border-rule bg-paper ${className}`;
  return label ? (
    <section aria-label={label} className={look} ref={ref} {...rest}>
      {children}
    </section>
  ) : (
    <div className={look}>{children}</div>
  );
}

/** A large figure over the words that say what it is. */
export function Figure({ value, label, wrong = false }: { value: ReactNode; label: ReactNode; wrong?: boolean }) {
  return (
    <div>
      <div className={`font-bold text-lg leading-6 ${wrong ? "text-ember" : ""}`}>{value}</div>
      <div className="text-ink-2 text-xs">{label}</div>
    </div>
  );
}

/** The strip under the walk bar: what one is looking at, its figures, what one can do. */
export function Header(props: { title: string; sub: ReactNode; figures?: ReactNode; actions?: ReactNode }) {
  useEffect(() => {
    document.title = `${props.title} – Rundgang`;
  }, [props.title]);
  return (
    <header className="flex flex-wrap items-center gap-x-8 gap-y-2 px-5 py-2.5">
      <div>
        <h1 className="font-bold text-xl leading-6">{props.title}</h1>
        <div className="text-ink-2 text-xs">{props.sub}</div>
      </div>
      {props.figures}
      <div className="no-print ml-auto flex flex-wrap gap-2">{props.actions}</div>
    </header>
  );
}

export function Row({ name, children }: { name: ReactNode; children: ReactNode }) {
  return (
    <div className="flex items-baseline justify-between gap-4 py-0.5 text-sm">
      <dt className="text-ink-2">{name}</dt>
      <dd className="text-right font-semibold">{children}</dd>
    </div>
  );
}

export function Heading({ children }: { children: ReactNode }) {
  return <h3 className="mt-4 mb-1 font-semibold text-muted text-xs">{children}</h3>;
}

/** A stop of a list drawn as a way: a ring on a dotted trail, filled where it binds. */
export function WayStop({ children, binding = false }: { children: ReactNode; binding?: boolean }) {
  return (
    <li className="relative border-trail border-l-2 border-dotted pb-3 pl-5 text-sm last:border-transparent">
      <span
        className={`absolute top-0.5 -left-[7px] h-3 w-3 rounded-full border-2 ${
          binding ? "border-ember bg-ember" : "border-crust bg-paper"
        }`}
      />
      {children}
    </li>
  );
}

const TONES = { wrong: "border-ember text-ember", note: "border-trail text-ink-2", good: "border-steam text-steam" };

export function Notice(props: { tone?: keyof typeof TONES; title: ReactNode; children?: ReactNode }) {
  const tone = props.tone ?? "note";
  return (
    <div role={tone === "wrong" ? "alert" : "status"} className={`border-l-4 bg-paper px-4 py-2.5 ${TONES[tone]}`}>
      <p className="font-semibold text-sm">{props.title}</p>
      {props.children && <div className="mt-1 text-ink text-sm">{props.children}</div>}
    </div>
  );
}

/** An error as a notice: its title and each fault on its own line. */
export function Refused({ error, again }: { error: Refusal | Error; again?: () => void }) {
  const faults = "faults" in error ? error.faults : [];
  return (
    <Notice tone="wrong" title={<Said text={error.message} />}>
      {faults.length > 0 && (
        <ul className="list-disc pl-5">
          {faults.map((fault) => (
            <li key={fault}>
              <Said text={fault} />
            </li>
          ))}
        </ul>
      )}
      {again && (
        <Button className="mt-2" onClick={again}>
          Retry
        </Button>
      )}
    </Notice>
  );
}

/** What was refused; or asked, with the button that says yes. */
export function RefusedOrAsked({ error, onConfirm }: { error: Refusal; onConfirm: () => void }) {
  if (!error.asks) return <Refused error={error} />;
  return (
    <Notice tone="wrong" title={error.message}>
      <Button onClick={onConfirm}>Yes, save it so</Button>
    </Notice>
  );
}

export function Loading({ what }: { what: string }) {
  return (
    <div role="status" className="m-5 animate-pulse rounded-xl border border-rule bg-paper p-8 text-ink-2">
      Loading {what} …
    </div>
  );
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="m-auto max-w-md p-10 text-center">
      <svg aria-hidden="true" viewBox="0 0 120 24" className="mx-auto mb-4 w-40 text-trail">
        <path d="M8 12h104" stroke="currentColor" strokeWidth="3" strokeDasharray="1 7" strokeLinecap="round" />
        <circle cx="60" cy="12" r="7" className="fill-paper" stroke="currentColor" strokeWidth="3" />
      </svg>
      <h2 className="font-bold text-lg">{title}</h2>
      <div className="mt-1 text-ink-2">{children}</div>
    </div>
  );
}

type Paged = { hasNextPage: boolean; isFetchingNextPage: boolean; older: () => void };

/** Under a list that comes a page at a time. */
export function Older({ of }: { of: Paged }) {
  if (!of.hasNextPage) return null;
  return (
    <Button size="small" className="mt-2" disabled={of.isFetchingNextPage} onClick={of.older}>
      Show older ones
    </Button>
  );
}
