import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router-dom";
import { client, unwrap } from "../../api/client";
import { benchesQuery, binQuery } from "../../api/queries";
import { BenchFile } from "../../parts/BenchFile";
import { Icon } from "../../ui/Icon";
import { Page } from "../../ui/Page";
import { useDrop } from "../../ui/useDrop";
import { reason } from "../../work/reason";
import { useMe } from "../../work/useMe";
import { rename, useShelf } from "./useShelf";
import { BenchCard } from "./BenchCard";
import { Bin } from "./Bin";
import css from "./ShelfView.module.css";

/** All benches: to open, begin, copy, pass on and take away. */
export default function ShelfView() {
  const { data: benches, error, failureReason } = useQuery({ ...benchesQuery, staleTime: 0 });
  const { desk, role } = useMe();
  const makes = desk || role === "takes part";
  const { data: bin } = useQuery({ ...binQuery, staleTime: 0, enabled: desk });

  const { done, refused, act, duplicate, restore, remove, read } = useShelf();
  const { over, drops } = useDrop((files) => void read(files[0]));

  return (
    <Page
      manual="shelf"
      heading="Benches"
      data-dragged={over || undefined}
      {...drops}
      acts={
        makes && (
          <>
            <Button variant="contained" component={Link} to="/benches/new" startIcon={<Icon name="plus" size={17} />}>
              New bench
            </Button>
            <BenchFile onFile={(f) => void read(f)}>Import a file</BenchFile>
          </>
        )
      }
      aside={
        desk && (
          <Button
            href="/api/backup"
            download
            startIcon={<Icon name="down" size={17} />}
            title="A copy of the whole database"
          >
            Copy of everything
          </Button>
        )
      }
    >
      <div className={css.main}>
        <div aria-live="polite" className={css.said}>
          {refused && (
            <p role="alert" className={css.refused}>
              {refused}
            </p>
          )}
          {done && (
            <p>
              {done.text}
              {done.back && (
                <Button
                  size="small"
                  onClick={() =>
                    void act(async () => {
                      await done.back?.();
                      return { text: "Undone" };
                    }, "undo")
                  }
                >
                  Undo
                </Button>
              )}
            </p>
          )}
        </div>
        {!benches && <p>{(error ?? failureReason) ? reason(error ?? failureReason) : "Opening…"}</p>}
        {benches?.length === 0 && (
          <p className={css.empty}>
            The shelf is empty. Begin a new bench, or drop a bench’s file here; files of earlier versions are read too.
          </p>
        )}
        <ul className={css.shelf}>
          {benches?.map((b) => (
            <li key={b.id}>
              <BenchCard
                bench={b}
                onDuplicate={makes ? () => void duplicate(b) : undefined}
                onRemove={desk ? () => void remove(b) : undefined}
                onRename={(name) => void act(() => rename(b, name))}
              />
            </li>
          ))}
        </ul>
        {bin && bin.length > 0 && (
          <Bin
            benches={bin}
            onRestore={(b) => void restore(b)}
            onEmpty={() =>
              void act(async () => {
                const { deleted } = unwrap(await client.DELETE("/api/bin"));
                return { text: deleted === 1 ? "One bench is gone for good" : `${deleted} benches are gone for good` };
              })
            }
          />
        )}
        <p className={css.notices}>
          {desk && <Link to="/program">This program: what it stands on, its copies, a report</Link>}
          <a href="/notices.txt">Notices of the parts inside</a>
        </p>
      </div>
    </Page>
  );
}
