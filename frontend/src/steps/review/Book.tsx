import { Box, chakra } from "@chakra-ui/react";
import { Empty } from "../../kit/controls";
import { looksOfBook, missingPictures, useBook, viewsOfBook } from "../../show/book";
import { things, useShow } from "../../show/document";
import { lookName, looksInOrder } from "../../show/looks";
import { standingOf } from "../../show/notes";

/** One more, or one less, of all: none left out is all of them. */
const toggled = (of: readonly string[], all: readonly string[], id: string): string[] | null => {
  const next = of.includes(id) ? of.filter((one) => one !== id) : [...of, id];
  return next.length === all.length ? null : next;
};

/** What is in the book: looks down, viewpoints across, and which of their pictures are drawn. */
export function Book() {
  const objects = useShow((state) => state.objects);
  const pictures = useShow((state) => state.pictures);
  const show = useShow((state) => state.id);
  useShow((state) => state.stand);
  useShow((state) => state.looks);
  useBook();
  const looks = looksInOrder(objects);
  const views = things(objects, "viewpoint");
  const [chosen, seen] = [looksOfBook(), viewsOfBook()];
  const missing = new Set(missingPictures().map((pair) => pair.join(" ")));
  const notes = things(objects, "note");
  if (!looks.length || !views.length) return <Empty>A book needs looks, and viewpoints that they are seen from: keep looks in Looks, and name where you look from under House.</Empty>;
  return (
    <Box overflow="auto" flex="1" tabIndex={0} aria-label="What is in the book" role="region">
      <chakra.table fontSize="12.5px" css={{ borderCollapse: "collapse", "& td, & th": { padding: "3px 10px", borderBottom: "1px solid {colors.ink2}", textAlign: "left", fontWeight: 400, whiteSpace: "nowrap" } }}>
        <thead>
          <tr>
            <chakra.th color="dim">Look</chakra.th>
            {views.map((view) => (
              <th key={view.id}>
                <chakra.label display="flex" gap="6px" alignItems="center">
                  <input type="checkbox" checked={seen.includes(view.id)} onChange={() => useBook.setState({ views: toggled(seen, views.map((one) => one.id), view.id) })} />
                  {view.body.name}
                </chakra.label>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {looks.map((look) => (
            <tr key={look.id}>
              <td>
                <chakra.label display="flex" gap="6px" alignItems="center">
                  <input type="checkbox" checked={chosen.includes(look.id)} onChange={() => useBook.setState({ looks: toggled(chosen, looks.map((one) => one.id), look.id) })} />
                  {lookName(look)}
                  <chakra.span color={standingOf(notes, look.id).verdict === "agreed" ? "verdigris" : "ember"} fontSize="11px">{standingOf(notes, look.id).verdict}</chakra.span>
                </chakra.label>
              </td>
              {views.map((view) => {
                const key = `${look.id} ${view.id}`;
                const there = pictures[key];
                const within = chosen.includes(look.id) && seen.includes(view.id);
                return (
                  <td key={view.id}>
                    {!within ? "" : there ? (
                      <chakra.span display="inline-flex" gap="6px" alignItems="center" color={missing.has(key) ? "dim" : undefined}>
                        <img src={`/api/shows/${show}/looks/${look.id}/seen?viewpoint=${view.id}&made_of=${encodeURIComponent(there)}`} alt="" width="36" height="20" />
                        {missing.has(key) ? "of before" : "drawn"}
                      </chakra.span>
                    ) : (
                      <chakra.span color="faint">not drawn yet</chakra.span>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </chakra.table>
    </Box>
  );
}
