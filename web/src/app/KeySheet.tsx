import { shortcuts } from "../ui/shortcuts";

/** The keys, and what they do. */
export default function KeySheet() {
  return (
    <>
      <h2>Keys</h2>
      <dl>
        {Object.values(shortcuts).map(({ keys, what }) => (
          <div key={what}>
            <dt>
              {keys.map((n) => (
                <kbd key={n}>{n}</kbd>
              ))}
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </>
  );
}
