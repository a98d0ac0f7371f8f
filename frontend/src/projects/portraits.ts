import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answered, api, type ProjectCard } from "../api/client";

/** Whoever opens a project at once is not kept waiting by pictures of others. */
const SETTLED_MS = 1500;

/** Has the server make pictures for cards without one, one after the other while they are looked at; the project whose turn
 * it is. */
export function usePortraits(cards: ProjectCard[] | undefined): string | null {
  const queries = useQueryClient();
  const [drawing, setDrawing] = useState<string | null>(null);
  const [failed, setFailed] = useState<ReadonlySet<string>>(new Set());
  const settled = useRef(false);
  const next = cards?.find((c) => !c.has_picture && !failed.has(c.id))?.id;
  useEffect(() => {
    if (!next) return;
    let left = false;
    const draw = async () => {
      settled.current = true;
      setDrawing(next);
      try {
        const params = { path: { project: next } };
        const made = await answered(api.POST("/api/projects/{project}/picture", { params }));
        if (!made.has_picture) throw new Error("There is no picture.");
        queries.setQueryData(["projects"], (all: ProjectCard[] | undefined) =>
          all?.map((c) => (c.id === next ? made : c)),
        );
      } catch {
        if (!left) setFailed((all) => new Set([...all, next]));
      }
      if (!left) setDrawing(null);
    };
    const timer = setTimeout(draw, settled.current ? 0 : SETTLED_MS);
    return () => {
      left = true;
      clearTimeout(timer);
    };
  }, [next, queries]);
  return drawing;
}
