import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type Decisions, need } from "../../api/client";
import { useBench } from "../../bench/bench";
import { NameSheet } from "../../bench/menu/NameSheet";
import { Button, Select } from "../../ui/controls";
import { metric } from "../../ui/format";

const KEY = ["purposes"];
type Chord = Decisions["facet"]["chord"];

/** A chord error in a few words. */
export const chordSaid = (chord: Chord) =>
  chord.kind === "absolute" ? metric(chord.metres) : `${Number((chord.share * 100).toPrecision(2))} %`;

/** Purposes that somebody kept: taken by a choice, made of what stands. */
export function OwnPurposes({ onTake }: { onTake: (chord: Chord, degrees: number, name: string) => void }) {
  const { job } = useBench();
  const queries = useQueryClient();
  const [naming, setNaming] = useState(false);
  const kept = useQuery({ queryKey: KEY, queryFn: async () => need(await api.GET("/api/purposes")) });
  const keep = async (name: string) => {
    need(await api.POST("/api/jobs/{job_id}/purposes", { params: { path: { job_id: job.id } }, body: { name } }));
    await queries.invalidateQueries({ queryKey: KEY });
  };
  return (
    <div className="flex items-center gap-2 text-[13px]">
      {(kept.data?.length ?? 0) > 0 && (
        <Select
          label="Own purposes"
          empty="Own purpose…"
          className="min-w-0 flex-1"
          value=""
          options={kept.data!.map(({ number, name, facet }) => ({
            value: String(number),
            label: `${name}: ${chordSaid(facet.chord as Chord)}, ${Number(facet.degrees?.toPrecision(3))}°`,
          }))}
          onChange={(number) => {
            const found = kept.data!.find((one) => one.number === Number(number))!;
            onTake(found.facet.chord as Chord, found.facet.degrees!, found.name);
          }}
        />
      )}
      <Button title="For this and other jobs" onClick={() => setNaming(true)}>
        Keep as a purpose…
      </Button>
      <NameSheet
        asked={
          naming
            ? { title: "Keep as a purpose", label: "Name of the purpose", start: "", does: (name) => void keep(name) }
            : null
        }
        onClose={() => setNaming(false)}
      />
    </div>
  );
}
