/** How a product looks in every chart: a crumb or crust tone with a pattern of its own, never colour alone. */

const TONES = 4;

/** Four tones, and from the fifth product on the same tones with another pattern. */
export function tone(index: number) {
  const [fill, pattern] = [index % TONES, (index + Math.floor(index / TONES)) % TONES];
  return {
    fill: `var(--dough-${fill + 1})`,
    edge: `var(--dough-edge-${fill + 1})`,
    pattern: pattern === 0 ? undefined : `url(#crumb-${pattern})`,
  };
}

/** The patterns, once in every drawing that uses them. */
export function CrumbPatterns() {
  const common = { patternUnits: "userSpaceOnUse" as const };
  return (
    <defs>
      <pattern id="crumb-1" {...common} width="9" height="9">
        <circle cx="2" cy="2" r="1.1" fill="var(--dough-edge-2)" opacity="0.7" />
        <circle cx="6.5" cy="6.5" r="1.1" fill="var(--dough-edge-2)" opacity="0.7" />
      </pattern>
      <pattern id="crumb-2" {...common} width="8" height="8" patternTransform="rotate(45)">
        <path d="M0 0V8" stroke="var(--dough-edge-3)" strokeWidth="1.4" opacity="0.55" />
      </pattern>
      <pattern id="crumb-3" {...common} width="12" height="8">
        <path d="M0 4q3-4 6 0t6 0" fill="none" stroke="var(--dough-edge-4)" strokeWidth="1.2" opacity="0.6" />
      </pattern>
      <pattern id="shut" {...common} width="6" height="6" patternTransform="rotate(35)">
        <path d="M0 0V6" stroke="var(--trail)" strokeWidth="1.6" opacity="0.8" />
      </pattern>
    </defs>
  );
}

export function Swatch({ index }: { index: number }) {
  const { fill, edge, pattern } = tone(index);
  return (
    <svg aria-hidden="true" width="22" height="14" className="inline-block align-[-2px]">
      <CrumbPatterns />
      <rect x="1" y="1" width="20" height="12" fill={fill} stroke={edge} />
      {pattern && <rect x="1" y="1" width="20" height="12" fill={pattern} />}
    </svg>
  );
}
