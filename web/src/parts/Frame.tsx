import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { NavLink, Link as RouterLink, useLocation, useNavigate } from "react-router";
import { api, told } from "../api/client";
import { useOutbox, useReached, useSlow } from "../api/outbox";
import type { Me } from "../api/queries";
import { useSettings } from "../settings";
import { count, KeptHere } from "./KeptHere";
import { KeysHelp, useLetter } from "./Keys";
import { Mark } from "./Mark";

/** The line above every screen, and the screen. */
export function Frame({
  me,
  left,
  children,
}: {
  me: Me;
  /** The person has signed out. */
  left: (nobody: Me) => void;
  children: ReactNode;
}) {
  const [help, setHelp] = useState(false);
  const { system, change } = useSettings();
  const other = system === "metric" ? "inch" : "metric";
  useLetter("u", () => change({ system: other }));
  useLetter("?", () => setHelp(true));
  const { pathname } = useLocation();
  const here = me.workshops?.find((w) => pathname.startsWith(`/w/${w.id}`)) ?? me.workshops?.[0];
  return (
    <Box sx={{ minHeight: "100dvh", display: "flex", flexDirection: "column" }}>
      <Link
        href="#main"
        sx={{ position: "absolute", left: -9999, "&:focus": { left: 8, top: 8, zIndex: 10 } }}
      >
        Skip to the page
      </Link>
      <Box
        component="header"
        sx={(t) => ({
          display: "flex",
          alignItems: "center",
          gap: { xs: 0.25, md: 1 },
          px: { xs: 0.75, md: 2 },
          borderBottom: `1px solid ${t.palette.rule}`,
          minHeight: 52,
        })}
      >
        <Link
          component={RouterLink}
          to={here ? `/w/${here.id}` : "/"}
          aria-label={here?.name ?? "Calm Square"}
          underline="none"
          color="text.primary"
          sx={{
            display: "flex",
            alignItems: "center",
            gap: 1,
            minHeight: 48,
            fontWeight: 700,
            mr: { md: 1 },
          }}
        >
          <Mark size={28} />
          <Box component="span" sx={{ display: { xs: "none", md: "inline" } }}>
            {here?.name ?? "Calm Square"}
          </Box>
        </Link>
        {here && (
          <Box component="nav" aria-label="Workshop" sx={{ display: "flex" }}>
            <Place to={`/w/${here.id}`} text="Workshop" />
            <Place to={`/w/${here.id}/jobs`} text="Jobs" />
            <Place to={`/w/${here.id}/logbook`} text="Logbook" />
            <Place to={`/w/${here.id}/kit`} text="Kit" />
          </Box>
        )}
        <Box sx={{ flex: 1 }} />
        <Button
          size="small"
          color="inherit"
          onClick={() => change({ system: other })}
          aria-label={`mm · in: shown in ${system === "metric" ? "millimetres" : "inches"}, press for ${other}`}
          sx={{ minWidth: { xs: 56, md: 64 }, px: { xs: 0, md: 0.5 }, flex: "none" }}
        >
          <Choice on={system === "metric"}>mm</Choice>&nbsp;·&nbsp;
          <Choice on={system === "inch"}>in</Choice>
        </Button>
        <Account me={me} here={here?.id} left={left} showKeys={() => setHelp(true)} />
      </Box>
      <Connection />
      <Box id="main" component="main" tabIndex={-1} sx={{ flex: 1, outline: "none", minWidth: 0 }}>
        {children}
      </Box>
      <KeysHelp open={help} close={() => setHelp(false)} />
    </Box>
  );
}

function Choice({ on, children }: { on: boolean; children: ReactNode }) {
  return (
    <Box
      component="span"
      sx={{
        fontWeight: on ? 700 : 400,
        textDecoration: on ? "underline" : "none",
        textUnderlineOffset: 4,
      }}
    >
      {children}
    </Box>
  );
}

function Place({ to, text }: { to: string; text: string }) {
  return (
    <Button
      component={NavLink}
      to={to}
      end
      color="inherit"
      size="small"
      sx={(t) => ({
        px: { xs: 0.5, md: 1.5 },
        minWidth: { xs: 44, md: 48 },
        borderRadius: 0,
        "&.active": { boxShadow: `inset 0 -3px ${t.palette.primary.main}` },
      })}
    >
      {text}
    </Button>
  );
}

function Account({
  me,
  here,
  left,
  showKeys,
}: {
  me: Me;
  here?: string;
  left: (nobody: Me) => void;
  showKeys: () => void;
}) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const { theme, speech, change } = useSettings();
  const client = useQueryClient();
  const go = useNavigate();
  const kept = useOutbox().length;
  const [looking, setLooking] = useState<"look" | "leave" | null>(null);
  const leave = async () => {
    setLooking(null);
    const nobody = await told(api.POST("/api/v1/auth/sign-out"));
    go("/");
    left(nobody);
  };
  const reset = async () => {
    await told(api.POST("/api/v1/demo/reset"));
    await client.resetQueries();
    go("/");
  };
  const pick = (act: () => void) => () => {
    setAnchor(null);
    act();
  };
  return (
    <>
      <Button
        color="inherit"
        size="small"
        sx={{ px: { xs: 0.5, md: 2 }, minWidth: 48 }}
        aria-haspopup="menu"
        aria-expanded={anchor !== null}
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        {me.name}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem onClick={pick(() => change({ theme: theme === "light" ? "dark" : "light" }))}>
          {theme === "light" ? "Night theme" : "Light theme"}
        </MenuItem>
        <MenuItem onClick={pick(() => change({ speech: !speech }))}>
          {speech ? "Stop reading aloud" : "Read stations and verdicts aloud"}
        </MenuItem>
        <MenuItem onClick={pick(showKeys)}>Keys</MenuItem>
        {here && <MenuItem onClick={pick(() => go(`/w/${here}/members`))}>Members</MenuItem>}
        <MenuItem onClick={pick(() => go("/account"))}>Account and workshops</MenuItem>
        {me.workshops?.some((w) => w.is_demo) && (
          <MenuItem onClick={pick(() => void reset())}>Put the demo back to its start</MenuItem>
        )}
        {kept > 0 && (
          <MenuItem onClick={pick(() => setLooking("look"))}>{count(kept)} kept here</MenuItem>
        )}
        <MenuItem onClick={pick(() => (kept > 0 ? setLooking("leave") : void leave()))}>
          Sign out
        </MenuItem>
      </Menu>
      <KeptHere
        open={looking !== null}
        close={() => setLooking(null)}
        leave={looking === "leave" ? () => void leave() : undefined}
      />
    </>
  );
}

/** Says so when readings wait for the connection, or were refused and wait for the person. */
function Connection() {
  const outbox = useOutbox();
  const waiting = outbox.filter((item) => !item.refused).length;
  const { pathname } = useLocation();
  const [looking, setLooking] = useState(false);
  // on its own screen a refused reading is told of in full
  const refused = outbox.filter(
    (item) => item.refused && !item.aside && pathname !== `/checks/${item.checkId}`,
  ).length;
  const reached = useReached();
  const slow = useSlow();
  const late = `The server is slow. ${waiting > 1 ? `${waiting} readings are` : "What you typed is"} kept on this device: read on.`;
  const text = reached
    ? slow
      ? late
      : waiting > 0 && `Sending ${waiting} ${waiting > 1 ? "readings" : "reading"}…`
    : `No connection. ${
        waiting
          ? `${waiting} ${waiting > 1 ? "readings are" : "reading is"} kept on this device and will be sent when it is back.`
          : "What you type is kept on this device."
      }`;
  return (
    <Box role="status" aria-live="polite">
      {text && (slow || !reached) && (
        <Box
          sx={(t) => ({
            px: 2,
            py: 0.75,
            borderBottom: `1px solid ${t.palette.rule}`,
            borderLeft: `6px solid ${t.palette.status.too_close}`,
            bgcolor: "background.paper",
          })}
        >
          {text}
        </Box>
      )}
      {refused > 0 && (
        <Box
          sx={(t) => ({
            px: 2,
            borderBottom: `1px solid ${t.palette.rule}`,
            borderLeft: `6px solid ${t.palette.status.out}`,
            bgcolor: "background.paper",
          })}
        >
          {count(refused)} {refused === 1 ? "was" : "were"} not taken, and{" "}
          {refused === 1 ? "is" : "are"} kept on this device.{" "}
          <Button size="small" onClick={() => setLooking(true)}>
            Look at {refused === 1 ? "it" : "them"}
          </Button>
        </Box>
      )}
      <KeptHere open={looking} close={() => setLooking(false)} />
    </Box>
  );
}
