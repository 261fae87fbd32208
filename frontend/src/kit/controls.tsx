import { Box, chakra, Flex, type HTMLChakraProps, useRecipe } from "@chakra-ui/react";
import { useDragged } from "./dragged";
import { explained } from "./terms";
import { meantNumber, plainNumber, SIGNS_SAY, type Signs, sum } from "./signs";
import { useWheel } from "./wheel";
import { type ReactNode, type Ref, useEffect, useId, useRef, useState } from "react";

type Look = "main" | "plain" | "quiet" | "on";

/** A button that says what it will do. */
export function Action({ look = "plain", ...rest }: HTMLChakraProps<"button"> & { look?: Look }) {
  const recipe = useRecipe({ key: "action" });
  return <chakra.button type="button" data-main={look === "main" ? "" : undefined} css={recipe({ look } as never)} {...rest} />;
}

/** The end of a form with its main button: it stays in sight while the form is longer than the card. */
export function Foot({ children }: { children: ReactNode }) {
  return (
    <Flex direction="column" gap="6px" position="sticky" bottom="0" zIndex={1} bg="ink2" pt="8px" pb="8px" mb="-8px">
      {children}
    </Flex>
  );
}

/** A part of the card, parted from the next by a hairline. */
export function Section({ title, children }: { title?: string; children: ReactNode }) {
  return (
    <Box as="section" px="16px" py="12px" borderBottom="1px solid" borderColor="line">
      {title && (
        <Box as="h3" fontSize="11px" fontWeight={600} color="faint" letterSpacing="0.05em" mb="8px" title={explained(title)}>
          {title}
        </Box>
      )}
      {children}
    </Box>
  );
}

/** What a label says where the pointer rests, and that it does. */
function meaning(label: string): { title?: string; textDecoration?: string; cursor?: string } {
  const title = explained(label);
  return title ? { title, textDecoration: "underline dotted {colors.line} 1px", cursor: "help" } : {};
}

/** A label beside its control. */
export function Labelled({ label, htmlFor, children }: { label: string; htmlFor?: string; children: ReactNode }) {
  return (
    <Flex align="center" mb="6px" gap="8px">
      <chakra.label htmlFor={htmlFor} color="dim" fontSize="12px" width="88px" flex="none" {...meaning(label)}>
        {label}
      </chakra.label>
      <Box flex="1" minWidth="0">
        {children}
      </Box>
    </Flex>
  );
}

const INPUT = {
  bg: "ink1", border: "1px solid", borderColor: "line", borderRadius: "4px", height: "26px", px: "8px", width: "100%", fontSize: "12.5px",
  color: "text", _placeholder: { color: "faint" },
} as const;

interface TextBoxProps extends Omit<HTMLChakraProps<"input">, "value"> {
  label: string;
  value: string;
  hint?: string;
  numeric?: boolean;
  wrong?: string | null;
  /** At its edge: what a sign does. */
  mark?: string;
  ref?: Ref<HTMLInputElement>;
  /** Under it, while it is typed in. */
  said?: string;
}

/** A label, its field, and under it what is wrong with what was typed, or what comes of it. */
function TextBox({ label, hint, numeric = true, wrong, mark, said, ...rest }: TextBoxProps) {
  const id = useId();
  return (
    <>
      <Labelled label={label} htmlFor={id}>
        <Box position="relative">
          <chakra.input
            {...INPUT}
            id={id}
            placeholder={hint}
            aria-invalid={Boolean(wrong)}
            aria-describedby={said ? `${id}-said` : undefined}
            borderColor={wrong ? "rose" : "line"}
            fontFamily={numeric ? "mono" : "body"}
            textAlign={numeric ? "right" : "left"}
            {...rest}
          />
          {mark && (
            <Box as="span" aria-hidden position="absolute" left="6px" top="0" lineHeight="26px" fontFamily="mono" fontSize="10.5px" color="faint" pointerEvents="none">
              {mark}
            </Box>
          )}
        </Box>
      </Labelled>
      {said && (
        <Box id={`${id}-said`} color="dim" fontSize="11px" fontFamily={said.includes("=") ? "mono" : undefined} textAlign="right" mt="-3px" mb="5px">
          {said}
        </Box>
      )}
      {wrong && (
        <Box role="alert" color="rose" fontSize="11.5px" mt="-2px" mb="6px">
          {wrong}
        </Box>
      )}
    </>
  );
}

/** How a field of a number reads signs: what it holds (none: several values), how a step is read, how numbers are shown. */
export interface Signed {
  signs: Signs;
  base?: number;
  read: (text: string) => number | null;
  shown: (value: number) => string;
}

interface FieldProps {
  label: string;
  value: string;
  /** Take what was typed; a rejected promise keeps the text and shows the message. `emptied`: it was typed from nothing. */
  onCommit: (text: string, emptied: boolean) => Promise<unknown> | undefined;
  /** Look at what was typed before it is taken. */
  onType?: (text: string, emptied: boolean) => void;
  onLeave?: () => void;
  hint?: string;
  numeric?: boolean;
  disabled?: boolean;
  signed?: Signed;
  /** The wheel turned by so many notches over the field while it has the focus: ten at once with Shift, a tenth with Ctrl. */
  onNotches?: (notches: number) => Promise<unknown>;
}

/** A field of a number that is kept as it is: + and - change it, or are its own. A value that cannot be is refused by `onNumber`. */
export function NumberField({ value, write = String, read = plainNumber, signs = "adds", onNumber, ...rest }: { label: string; value: number; write?: (value: number) => string; read?: (text: string) => number; signs?: Signs; onNumber: (value: number) => Promise<unknown> | undefined; disabled?: boolean }) {
  const take = async (text: string, emptied: boolean) => onNumber(meantNumber(text, value, signs, emptied, read));
  return <Field {...rest} value={write(value)} onCommit={take} signed={{ signs, base: value, read, shown: (number) => write(Number(number.toPrecision(12))) }} />;
}

/** A field whose text is taken with Enter or by leaving it. What could not be taken stays typed, with the reason. */
export function Field({ value, onCommit, onType, onLeave, signed, onNotches, ...rest }: FieldProps) {
  const [text, setText] = useState(value);
  const [wrong, setWrong] = useState<string | null>(null);
  const [emptied, setEmptied] = useState(false);
  const [here, setHere] = useState(false);
  const editing = useRef(false);
  const taking = useRef(false);
  const latest = useRef(value);
  const box = useRef<HTMLInputElement>(null);
  useWheel(box, here, onNotches && ((notches) => void onNotches(notches).then(() => setWrong(null), (error: unknown) => setWrong(error instanceof Error ? error.message : String(error)))));
  useEffect(() => {
    latest.current = value;
    if (!editing.current) setText(value);
  }, [value]);
  const commit = async (): Promise<boolean> => {
    // Enter and then leaving the field take the text once, also where it says +1.5.
    if (taking.current) return false;
    if (text === value) {
      setWrong(null);
      return true;
    }
    taking.current = true;
    try {
      await onCommit(text, emptied);
      editing.current = false;
      setWrong(null);
      setEmptied(false);
      setText(latest.current);
      return true;
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error));
      return false;
    } finally {
      taking.current = false;
    }
  };
  const said = signed && here && !wrong ? sum(text, signed.signs, emptied, signed.base, signed.read, signed.shown) || SIGNS_SAY[signed.signs].says : "";
  return (
    <TextBox
      {...rest}
      ref={box}
      value={text}
      wrong={wrong}
      mark={signed && SIGNS_SAY[signed.signs].mark}
      title={[signed && SIGNS_SAY[signed.signs].says, onNotches && "The wheel turns it while it has the focus: ten at once with Shift, a tenth with Ctrl."].filter(Boolean).join(" ") || undefined}
      said={said}
      onChange={(event) => {
        const typed = event.target.value;
        editing.current = true;
        const nothing = emptied || typed === "";
        setEmptied(nothing);
        setText(typed);
        onType?.(typed, nothing);
      }}
      onFocus={(event) => {
        setHere(true);
        event.target.select();
      }}
      onBlur={() => {
        setHere(false);
        if (!editing.current) return;
        onLeave?.();
        void commit();
      }}
      onKeyDown={(event) => {
        const box = event.currentTarget;
        if (event.key === "Enter") {
          event.preventDefault();
          // Keys belong to the stage again, unless there is something to put right here.
          void commit().then((taken) => taken && box.blur());
        }
        if (event.key === "Escape") {
          event.preventDefault();
          editing.current = false;
          setEmptied(false);
          setText(value);
          setWrong(null);
          onLeave?.();
          box.blur();
        }
      }}
    />
  );
}

interface InputProps {
  label: string;
  value: string;
  onChange: (text: string) => void;
  hint?: string;
  numeric?: boolean;
  wrong?: string | null;
}

/** A field of something that is not there yet: the button at the card's end takes it. */
export function Input({ onChange, ...rest }: InputProps) {
  return <TextBox {...rest} onChange={(event) => onChange(event.target.value)} />;
}

/** One of a few words. */
export function Choice<T extends string>({ label, value, options, onChange }: { label: string; value: T; options: readonly (T | { value: T; label: string })[]; onChange: (value: T) => void }) {
  const id = useId();
  return (
    <Labelled label={label} htmlFor={id}>
      <chakra.select {...INPUT} id={id} px="5px" value={value} onChange={(event) => onChange(event.target.value as T)}>
        {options.map((option) => {
          const one = typeof option === "string" ? { value: option, label: option } : option;
          return (
            <option key={one.value} value={one.value}>
              {one.label}
            </option>
          );
        })}
      </chakra.select>
    </Labelled>
  );
}

/** Two or three ways beside each other, one of them on. */
export function Segments<T extends string>({ name, value, options, onChange }: { name: string; value: T; options: readonly { value: T; label: string; says?: string }[]; onChange: (value: T) => void }) {
  return (
    <Flex role="radiogroup" aria-label={name} border="1px solid" borderColor="line" borderRadius="5px" overflow="hidden" mb="8px">
      {options.map((option) => (
        <chakra.button
          key={option.value}
          type="button"
          role="radio"
          aria-checked={option.value === value}
          title={option.says ?? explained(option.label)}
          flex="1"
          py="5px"
          fontSize="12px"
          cursor="pointer"
          borderRight="1px solid"
          borderColor="line"
          _last={{ borderRight: "none" }}
          bg={option.value === value ? "brassDeep" : "transparent"}
          color={option.value === value ? "onBrassDeep" : "dim"}
          onClick={() => onChange(option.value)}
        >
          {option.label}
        </chakra.button>
      ))}
    </Flex>
  );
}

/** A value from 0 to 1, in percent. */
export function Level({ label, value, unset, says, onMove, onChange }: { label: string; value: number; /** It is not held: what is shown says nothing. */ unset?: boolean; /** What a value is, where it is no share; then it moves by thousandths. */ says?: (value: number) => string; onMove?: (value: number) => void; onChange: (value: number) => void }) {
  const id = useId();
  const dragged = useDragged(value, onMove, onChange);
  const percent = Math.round(dragged.value * 100);
  return (
    <Labelled label={label} htmlFor={id}>
      <Flex align="center" gap="8px">
        <chakra.input id={id} type="range" min={0} max={says ? 1000 : 100} value={says ? Math.round(dragged.value * 1000) : percent} aria-valuetext={says?.(dragged.value)} accentColor="{colors.brass}" flex="1" minWidth="0" {...dragged.on((text) => Number(text) / (says ? 1000 : 100))} />
        <Box fontFamily="mono" fontSize="12px" width={says ? "64px" : "38px"} textAlign="right">
          {unset && dragged.value === value ? "–" : (says?.(dragged.value) ?? `${percent} %`)}
        </Box>
      </Flex>
    </Labelled>
  );
}

/** Something that wants attention (a lozenge) or is wrong (a cross): told by shape as well as colour. */
export function Sign({ tone, children, onClick }: { tone: "attention" | "wrong" | "fine"; children: ReactNode; onClick?: () => void }) {
  const colour = tone === "wrong" ? "rose" : tone === "attention" ? "ember" : "verdigris";
  return (
    <Flex gap="8px" fontSize="12px" py="3px" lineHeight={1.4}>
      <chakra.svg width="13px" height="13px" viewBox="-7 -7 14 14" flex="none" mt="2px" stroke={colour} fill="none" strokeWidth="1.6" aria-hidden>
        {tone === "wrong" ? <path d="M-4-4 4 4M4-4-4 4" /> : tone === "attention" ? <path d="M0-5.5 5.5 0 0 5.5-5.5 0Z" /> : <path d="M-5 0-1 4 5-4" />}
      </chakra.svg>
      {onClick ? (
        <chakra.button type="button" textAlign="left" cursor="pointer" color="text" _hover={{ color: colour }} onClick={onClick}>
          {children}
        </chakra.button>
      ) : (
        <Box>{children}</Box>
      )}
    </Flex>
  );
}

/** How far long work has come, 0..1. */
export function Progress({ share, label }: { share: number; label: string }) {
  return (
    <Box role="progressbar" aria-label={label} aria-valuenow={Math.round(share * 100)} flex="1" height="3px" bg="line" my="6px">
      <Box height="100%" bg="brass" width={`${share * 100}%`} />
    </Box>
  );
}

/** The name and state of a bench, with what belongs to it on the right. */
export function BenchHead({ title, note, children }: { title: string; note?: ReactNode; children?: ReactNode }) {
  return (
    <Flex align="center" gap="16px" px="14px" height="34px" flex="none" borderBottom="1px solid" borderColor="line" fontSize="12px" color="dim">
      {title && (
        <Box as="h2" color="text" fontWeight={600}>
          {title}
        </Box>
      )}
      {note}
      <Box flex="1" />
      {children}
    </Flex>
  );
}

/** What goes here, and the first action. */
export function Empty({ children }: { children: ReactNode }) {
  return (
    <Flex direction="column" gap="10px" align="flex-start" color="dim" p="16px" fontSize="12.5px" maxWidth="460px">
      {children}
    </Flex>
  );
}

export function Keys({ children }: { children: ReactNode }) {
  return (
    <chakra.kbd fontFamily="mono" fontSize="10.5px" border="1px solid" borderColor="line" borderRadius="3px" px="4px" color="faint">
      {children}
    </chakra.kbd>
  );
}

/** A file chosen from this machine. */
export function FileField({ label, accept, onFile }: { label: string; accept: string; onFile: (file: File) => void }) {
  return (
    <chakra.input
      type="file" accept={accept} aria-label={label} fontSize="12px" color="dim" mb="6px" width="100%"
      css={{ "&::file-selector-button": { background: "{colors.ink3}", color: "{colors.text}", border: "1px solid {colors.line}", borderRadius: "5px", padding: "4px 10px", marginRight: "8px", cursor: "pointer" } }}
      onChange={(event) => {
        const file = event.target.files?.[0];
        if (file) onFile(file);
      }}
    />
  );
}
