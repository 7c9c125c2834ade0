import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, type Schemas, told } from "../api/client";
import { visuallyHidden } from "./hidden";
import { TakeBack } from "./TakeBack";
import { useWhen } from "./useWhen";
import { Remark } from "./Waiting";

type Photo = Schemas["PhotoOut"];

const address = (photo: Photo, small: boolean) =>
  `/api/v1/photos/${photo.id}${small ? "?small=true" : ""}`;

/** Takes a photo into the record: one press opens the camera or the files. */
export function PhotoButton({
  machineId,
  roundId,
  text = "Photo",
  main = false,
  kept,
}: {
  machineId: string;
  roundId?: string;
  text?: string;
  main?: boolean;
  kept?: (photo: Photo) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const send = useMutation<Photo, ApiProblem, File>({
    mutationFn: (file) => {
      const form = new FormData();
      form.set("id", uuid());
      form.set("at", new Date().toISOString());
      if (roundId) form.set("round_id", roundId);
      form.set("photo", file);
      return told(
        api.POST("/api/v1/machines/{machine_id}/photos", {
          params: { path: { machine_id: machineId } },
          // the generated type tells fields; what goes out is the form itself
          body: form as never,
          bodySerializer: (body: unknown) => body as FormData,
        }),
      );
    },
    onSuccess: (photo) => {
      for (const key of ["machine", "logbook", "check"])
        void client.invalidateQueries({ queryKey: [key] });
      kept?.(photo);
    },
  });
  return (
    <>
      <Button
        variant={main ? "contained" : "outlined"}
        disabled={send.isPending}
        onClick={() => input.current?.click()}
      >
        {send.isPending ? "Keeping the photo…" : text}
      </Button>
      <input
        ref={input}
        type="file"
        accept="image/*"
        capture="environment"
        aria-label={`${text}: pick a picture`}
        tabIndex={-1}
        style={visuallyHidden as React.CSSProperties}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) send.mutate(file);
        }}
      />
      {send.error && (
        <Remark tone="error" role="alert">
          {send.error.whole}
        </Remark>
      )}
    </>
  );
}

/** Small pictures in a row; a press shows one large. */
export function PhotoRow({ photos, write = false }: { photos: Photo[]; write?: boolean }) {
  const [large, setLarge] = useState<Photo | null>(null);
  const when = useWhen();
  const shown = photos.filter((p) => !p.taken_back);
  if (shown.length === 0) return null;
  const said = (photo: Photo) => photo.caption || `Photo of ${when(photo.at)}`;
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, my: 1 }}>
      {shown.map((photo) => (
        <Button
          key={photo.id}
          onClick={() => setLarge(photo)}
          aria-label={`${said(photo)}, show it large`}
          sx={(t) => ({ p: 0, border: `1px solid ${t.palette.rule}`, minWidth: 0 })}
        >
          <img src={address(photo, true)} alt="" style={{ height: 96, display: "block" }} />
        </Button>
      ))}
      <Dialog open={large !== null} onClose={() => setLarge(null)} maxWidth="lg">
        {large && (
          <Box sx={{ p: 2 }}>
            <img
              src={address(large, false)}
              alt={said(large)}
              style={{ maxWidth: "100%", maxHeight: "75vh", display: "block" }}
            />
            <Box sx={{ display: "flex", alignItems: "center", gap: 2, mt: 1 }}>
              <Box sx={{ flex: 1 }}>
                {large.caption && <b>{large.caption} · </b>}
                {when(large.at)}, {large.by}
              </Box>
              {write && <TakeBack type="photos" id={large.id} taken={false} what={said(large)} />}
              <Button onClick={() => setLarge(null)}>Close</Button>
            </Box>
          </Box>
        )}
      </Dialog>
    </Box>
  );
}
