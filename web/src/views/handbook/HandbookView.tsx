import { useNavigate, useParams } from "react-router-dom";
import { CONTENTS, pages } from "../../parts/handbook/pages";
import { Reader } from "../../parts/handbook/Reader";
import { Page } from "../../ui/Page";

/** The handbook in a page of its own. */
export default function HandbookView() {
  const { page = CONTENTS } = useParams();
  const navigate = useNavigate();
  return (
    <Page heading="Handbook" called={`${pages.get(page)?.title ?? "Handbook"} · Handbook`} home="/benches">
      <Reader page={page} go={(next) => void navigate(`/handbook/${next}`)} />
    </Page>
  );
}
