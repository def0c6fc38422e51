type Option = { value: string; label: string; group?: string };
type Props = { label: string; value: string; options: readonly Option[]; onChange: (value: string) => void };

/** One of many, from a list that opens; options of one group stand together. */
export function Pick({ label, value, options, onChange }: Props) {
  const groups = [...new Set(options.map((option) => option.group))];
  const inGroup = (group: string | undefined) =>
    options
      .filter((option) => option.group === group)
      .map((option) => (
        <option key={option.value} value={option.value}>
          {option.label}
        </option>
      ));
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value)}
      className="max-w-56 rounded-lg border border-trail/60 bg-paper px-3 py-2 font-semibold text-sm"
    >
      {groups.map((group) =>
        group === undefined ? (
          inGroup(group)
        ) : (
          <optgroup key={group} label={group}>
            {inGroup(group)}
          </optgroup>
        ),
      )}
    </select>
  );
}
