/** A row of choices of which one is in force. */
export function Tabs<T extends string>(props: {
  label: string;
  choices: readonly (readonly [T, string])[];
  value: T;
  onChange: (value: T) => void;
}) {
  return (
    <fieldset className="flex">
      <legend className="sr-only">{props.label}</legend>
      {props.choices.map(([value, name]) => (
        <label
          key={value}
          className={`cursor-pointer border border-l-0 px-3 py-1 first-of-type:rounded-l-sm first-of-type:border-l last:rounded-r-sm has-focus-visible:outline-2 has-focus-visible:outline-main ${
            value === props.value
              ? "border-rule-strong bg-main-soft font-semibold text-main"
              : "border-rule-strong bg-sheet hover:text-main"
          }`}
        >
          <input
            type="radio"
            className="sr-only"
            name={props.label}
            checked={value === props.value}
            onChange={() => props.onChange(value)}
          />
          {name}
        </label>
      ))}
    </fieldset>
  );
}
