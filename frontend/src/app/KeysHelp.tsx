import { chakra } from "@chakra-ui/react";
import { Overlaid } from "../kit/Overlaid";
import { useSelection } from "../show/selection";
import { KEYS } from "./keys";
import { STEP_VIEWS } from "./steps";

/** The keys: those of the step that one is at first, then those of every step, then those of other steps. */
export function KeysHelp({ onClose }: { onClose: () => void }) {
  const step = useSelection((state) => state.step);
  const here = KEYS.filter((group) => group.steps?.includes(step));
  const elsewhere = KEYS.filter((group) => group.steps && !group.steps.includes(step));
  const titled = [
    ...here.map((group) => ({ ...group, title: `${STEP_VIEWS[step].name}: ${group.title.toLowerCase()}` })),
    ...KEYS.filter((group) => !group.steps),
    ...elsewhere.map((group) => ({ ...group, title: `${(group.steps ?? []).map((one) => STEP_VIEWS[one].name).join(", ")}: ${group.title.toLowerCase()}` })),
  ];
  return (
    <Overlaid label="Keys" onClose={onClose}>
      <chakra.table
        aria-label="Keys" width="100%" fontSize="12.5px" css={{
          borderCollapse: "collapse",
          "& th[scope=rowgroup]": { textAlign: "left", fontSize: "11px", fontWeight: 600, color: "{colors.faint}", letterSpacing: "0.05em", padding: "12px 16px 4px" },
          "& th[scope=row]": { textAlign: "left", fontWeight: 400, fontFamily: "{fonts.mono}", fontSize: "12px", color: "{colors.brass}", width: "210px", padding: "4px 16px", whiteSpace: "nowrap", verticalAlign: "top" },
          "& td": { padding: "4px 16px 4px 0" },
          "& tr + tr > *": { borderTop: "1px solid {colors.ink3}" },
        }}
      >
        {titled.map((group) => (
          <tbody key={group.title}>
            <tr>
              <th scope="rowgroup" colSpan={2}>{group.title}</th>
            </tr>
            {group.keys.map(([keys, what]) => (
              <tr key={keys}>
                <th scope="row">{keys}</th>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        ))}
      </chakra.table>
    </Overlaid>
  );
}
