import { type KeyboardEvent, useId, useState } from "react";

import type { Reader, Reading } from "../api/read";
import { Problem } from "../api/client";

/** A field whose text is read when it is left or Enter is pressed, and what is to be said of it beside it. */
export function useTyped({
  value,
  shown,
  read,
  refuse,
  onSet,
}: {
  value: number | null;
  shown: string;
  read: Reader;
  /** Why a value that was understood cannot be taken; nothing where it can. */
  refuse: (value: number) => string | null;
  onSet: (value: number | null) => void;
}) {
  const id = useId();
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [readAs, setReadAs] = useState<Reading | null>(null);
  const settle = (next: number | null) => {
    setText(null);
    setWrong(null);
    if (next === null ? value !== null : value === null || Math.abs(next - value) > Math.abs(value) * 1e-9) onSet(next);
  };
  const enter = async (empty: boolean) => {
    if (text === null) return;
    if (!text.trim() && empty) return settle(null);
    try {
      const found = await read(text);
      const why = refuse(found.value);
      setWrong(why);
      setReadAs(!why && found.other ? found : null);
      if (!why) settle(found.value);
    } catch (error) {
      setReadAs(null);
      setWrong(error instanceof Problem ? `${error.message} ${error.remedy}`.trim() : "The server did not answer.");
    }
  };
  return {
    input: (empty = false) => ({
      value: text ?? shown,
      "aria-invalid": wrong !== null,
      "aria-describedby": wrong || readAs ? id : undefined,
      onChange: (event: { target: { value: string } }) => {
        setText(event.target.value);
        setWrong(null);
        setReadAs(null);
      },
      onFocus: (event: { target: HTMLInputElement }) => event.target.select(),
      onBlur: () => void enter(empty),
      onKeyDown: (event: KeyboardEvent) => {
        if (event.key === "Enter") void enter(empty);
        if (event.key === "Escape" && text !== null) {
          event.stopPropagation();
          setText(null);
          setWrong(null);
        }
      },
    }),
    wrong: wrong !== null,
    forget: () => {
      setText(null);
      setWrong(null);
      setReadAs(null);
    },
    note: (wrong ?? readAs) && (
      <span
        id={id}
        role="status"
        className={`absolute top-full right-0 z-20 mt-0.5 block w-max max-w-[250px] rounded border bg-paper px-2 py-1 text-left text-[12.5px] font-normal whitespace-normal shadow-[0_3px_10px_#00000022] ${wrong ? "border-signal text-signal" : "border-line text-ink"}`}
      >
        {wrong ?? (
          <>
            Read as {readAs!.said}.{" "}
            <button
              type="button"
              className="underline underline-offset-2"
              onMouseDown={(event) => event.preventDefault()}
              onClick={() => {
                const { value: now, said, other } = readAs!;
                setReadAs({ value: other!.value, said: other!.said, other: { value: now, said: said! } });
                onSet(other!.value);
              }}
            >
              Make it {readAs!.other!.said}
            </button>
          </>
        )}
      </span>
    ),
  };
}
