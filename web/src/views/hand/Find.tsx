import { Finder } from "../../parts/finder/Finder";
import css from "./hand.module.css";

/** From what the glass shows to what is wrong: pictures to point at, a photograph, tests with their answers. */
export default function Find() {
  return (
    <section className={css.view} aria-label="Find a fault">
      <Finder />
    </section>
  );
}
