import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link as RouterLink, useParams } from "react-router";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, useKit, usePieceRecord } from "../../api/queries";
import { Figure } from "../../figures/Figure";
import { AddShims } from "../../parts/AddShims";
import { useDay } from "../../parts/useWhen";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";
import { Shelf } from "./Shelf";
import { Wanted } from "./Wanted";

type Kit = Schemas["KitOut"];

export default function KitScreen() {
  const { workshopId = "" } = useParams();
  const kit = useKit(workshopId);
  const client = useQueryClient();
  const params = { path: { workshop_id: workshopId } };
  const changed = () => client.invalidateQueries({ queryKey: keys.kit(workshopId) });
  if (kit.isPending) return <Loading />;
  if (kit.isError) return <Failed problem={kit.error} again={() => void kit.refetch()} />;
  const pieces = (title: string, id: string, types: string[]) => (
    <Shelf
      title={title}
      id={id}
      items={kit.data.pieces.filter((p) => types.includes(p.type))}
      forms={kit.data.piece_forms.filter((f) => types.includes(f.type))}
      write={kit.data.can_write}
      detail={(item) => <Piece item={item} />}
      keep={(item, body) =>
        item
          ? told(
              api.PUT("/api/v1/pieces/{piece_id}", {
                params: { path: { piece_id: item.id } },
                body: { ...body, was: { name: item.name, spec: item.spec } },
              }),
            )
          : told(api.POST("/api/v1/workshops/{workshop_id}/pieces", { params, body }))
      }
      archive={(item) =>
        told(
          api.PUT("/api/v1/pieces/{piece_id}/archived", {
            params: { path: { piece_id: item.id } },
            body: { archived: !item.archived },
          }),
        )
      }
      changed={changed}
    />
  );
  return (
    <Box
      sx={{
        maxWidth: 1100,
        mx: "auto",
        px: 2,
        py: 3,
        display: "grid",
        gap: 5,
        gridTemplateColumns: { md: "1.3fr 1fr" },
      }}
    >
      <Box>
        <Shelf
          title="Instruments"
          id="instruments"
          items={kit.data.instruments}
          forms={kit.data.forms}
          write={kit.data.can_write}
          detail={(item) => <Shows item={item} />}
          keep={(item, body) =>
            item
              ? told(
                  api.PUT("/api/v1/instruments/{instrument_id}", {
                    params: { path: { instrument_id: item.id } },
                    body: { ...body, was: { name: item.name, spec: item.spec } },
                  }),
                )
              : told(api.POST("/api/v1/workshops/{workshop_id}/instruments", { params, body }))
          }
          archive={(item) =>
            told(
              api.PUT("/api/v1/instruments/{instrument_id}/archived", {
                params: { path: { instrument_id: item.id } },
                body: { archived: !item.archived },
              }),
            )
          }
          changed={changed}
        />
      </Box>
      <Box>
        <Box sx={{ mb: 5 }}>
          <Wanted workshopId={workshopId} write={kit.data.can_write} />
        </Box>
        <Shims kit={kit.data} workshopId={workshopId} />
        <Box sx={{ mt: 5 }}>
          {pieces("Squares and cylinders", "squares", ["square", "cylinder"])}
        </Box>
      </Box>
      <Box sx={{ gridColumn: "1 / -1" }}>
        {pieces("Holders, collets and tools", "pieces", ["holder", "collet", "nut", "tool", "pin"])}
      </Box>
      {kit.data.tins.length > 0 && (
        <Box component="section" aria-labelledby="tins" sx={{ gridColumn: "1 / -1" }}>
          <Typography id="tins" variant="h1">
            Collets, best to worst
          </Typography>
          <Typography sx={{ color: "text.secondary" }}>
            What all ran out by with each of them, when it was last read.
          </Typography>
          {kit.data.tins.map((tin) => (
            <Figure key={tin.title.metric} figure={tin} />
          ))}
        </Box>
      )}
    </Box>
  );
}

function Shows({ item }: { item: Schemas["InstrumentOut"] }) {
  const { say } = useSettings();
  const day = useDay();
  const { compared_on, compared_with } = item.spec;
  return (
    <Box>
      <Box sx={{ fontFamily: mono }}>reads {say(item.reads)}</Box>
      <Box sx={{ color: "text.secondary", fontSize: ".9rem" }}>
        {compared_on
          ? `compared ${day(compared_on)}${compared_with ? ` with ${compared_with}` : ""}`
          : "never compared"}
      </Box>
    </Box>
  );
}

function Piece({ item }: { item: Schemas["PieceOut"] }) {
  const { say } = useSettings();
  const { spec, shown } = item;
  const told = {
    holder: () => (spec.type === "holder" ? [spec.taper, spec.holds] : []),
    collet: () => (spec.type === "collet" ? [spec.series, say(shown.size_mm)] : []),
    nut: () => (spec.type === "nut" ? [spec.series] : []),
    pin: () => [say(shown.shank_mm), `${say(shown.stated_mm)} TIR`],
    tool: () => (spec.type === "tool" ? [say(shown.diameter_mm), `${spec.teeth} teeth`] : []),
    square: () => [`${say(shown.stated_mm)} over ${say(shown.over_mm)}`],
    cylinder: () => [`${say(shown.stated_mm)} over ${say(shown.over_mm)}`],
  }[spec.type]();
  return (
    <Box>
      {[...told, spec.mark, ...lookedAt(spec)].filter(Boolean).join(" · ")}
      {item.found && (
        <>
          <Box sx={{ color: "text.secondary", fontSize: ".9rem" }}>
            found: {say(item.found)}
            {item.good_for && `; good for ${say(item.good_for)}`}
          </Box>
          <Record item={item} />
        </>
      )}
    </Box>
  );
}

/** Every round that a piece took part in, fetched when somebody looks. */
function Record({ item }: { item: Schemas["PieceOut"] }) {
  const [open, setOpen] = useState(false);
  const record = usePieceRecord(item.id, open);
  const { say } = useSettings();
  const day = useDay();
  return (
    <Box component="details" onToggle={(e) => setOpen((e.target as HTMLDetailsElement).open)}>
      <Box component="summary" sx={{ cursor: "pointer", minHeight: 28, color: "text.secondary" }}>
        Its record
      </Box>
      {record.isError && <Remark tone="error">{record.error.message}</Remark>}
      {record.data?.map((round) => (
        <Box
          key={`${round.check_id}${round.at}${say(round.words)}`}
          sx={{ display: "flex", flexWrap: "wrap", columnGap: 1.5, fontSize: ".9rem", py: 0.25 }}
        >
          <Box sx={{ color: "text.secondary" }}>{day(round.at)}</Box>
          <Link component={RouterLink} to={`/checks/${round.check_id}`}>
            {round.machine}: {round.title.toLowerCase()}
          </Link>
          <Box sx={{ fontFamily: mono }}>{say(round.words)}</Box>
        </Box>
      ))}
    </Box>
  );
}

/** What is known of how a piece looks, and whether it is out of work. */
function lookedAt(spec: Schemas["PieceOut"]["spec"]): string[] {
  if (!("condition" in spec)) return [];
  const seen = spec.condition && spec.condition !== "sound" ? [`seen: ${spec.condition}`] : [];
  return spec.retired ? [...seen, "retired"] : seen;
}

function Shims({ kit, workshopId }: { kit: Kit; workshopId: string }) {
  const { say } = useSettings();
  const client = useQueryClient();
  const fresh = () => client.invalidateQueries({ queryKey: keys.kit(workshopId) });
  const change = useMutation<
    Schemas["ShimOut"],
    ApiProblem,
    { shim: Kit["shims"][number]; count: number }
  >({
    mutationFn: ({ shim, count }) => {
      const { id, thickness_mm, material, tolerance_mm } = shim;
      const was = { thickness_mm, count: shim.count, material, tolerance_mm };
      return told(
        api.PUT("/api/v1/shims/{shim_id}", {
          params: { path: { shim_id: id } },
          body: { ...was, count, was },
        }),
      );
    },
    // also after a refusal: somebody else has counted
    onSettled: fresh,
  });
  return (
    <Box component="section" aria-labelledby="shims">
      <Typography id="shims" variant="h1" sx={{ mb: 1 }}>
        Shim stock
      </Typography>
      {kit.shims.map((shim) => {
        const count = (to: number) => change.mutate({ shim, count: to });
        return (
          <Box
            key={shim.id}
            sx={(t) => ({
              borderTop: `1px solid ${t.palette.rule}`,
              display: "flex",
              gap: 1,
              alignItems: "center",
              minHeight: 52,
            })}
          >
            <Box sx={{ fontFamily: mono, minWidth: 96 }}>{say(shim.words)}</Box>
            <Box sx={{ flex: 1, color: "text.secondary" }}>{shim.material}</Box>
            {kit.can_write && (
              <Button
                size="small"
                disabled={shim.count === 0}
                onClick={() => count(shim.count - 1)}
                aria-label={`One less of ${say(shim.words)}`}
              >
                −
              </Button>
            )}
            <Box sx={{ minWidth: 64, textAlign: "center" }}>{shim.count} pcs</Box>
            {kit.can_write && (
              <Button
                size="small"
                onClick={() => count(shim.count + 1)}
                aria-label={`One more of ${say(shim.words)}`}
              >
                +
              </Button>
            )}
          </Box>
        );
      })}
      {kit.can_write && <AddShims workshopId={workshopId} />}
      {change.error && (
        <Remark tone="error" role="alert">
          {change.error.message}
        </Remark>
      )}
    </Box>
  );
}
