/** Several of a list, by ticking them. */
export function Ticks({
  legend,
  name,
  options,
  ticked,
}: {
  legend: string;
  name: string;
  options: readonly (readonly [string, string])[];
  ticked: readonly string[];
}) {
  return (
    <fieldset>
      <legend className="mb-1 font-medium">{legend}</legend>
      {options.map(([value, words]) => (
        <label key={value} className="flex items-center gap-2 py-0.5">
          <input type="checkbox" name={name} value={value} defaultChecked={ticked.includes(value)} />
          {words}
        </label>
      ))}
    </fieldset>
  );
}
