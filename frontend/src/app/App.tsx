import { Box, Flex, Grid } from "@chakra-ui/react";
import { lazy, Suspense, useEffect, useState } from "react";
import { Action } from "../kit/controls";
import { Exchange } from "../exchange/Exchange";
import { useExchange } from "../exchange/state";
import { useShop } from "../shop/state";
import { useShow } from "../show/document";
import { loadAll, stayConnected } from "../show/link";
import { dismiss, type Notice, useMessages } from "../show/messages";
import { usePanes } from "../show/panes";
import { usePicture } from "../show/picture";
import { stayPresent } from "../show/presence";
import { useSelection } from "../show/selection";
import { Drop } from "./Drop";
import { FindDo } from "./FindDo";
import { HistoryPanel } from "./HistoryPanel";
import { KeysHelp } from "./KeysHelp";
import { PicturePanel } from "./PicturePanel";
import { ShowPanel } from "./ShowPanel";
import { StageView } from "./StageView";
import { StatusLine } from "./StatusLine";
import { WorkLine } from "./WorkLine";
import { useKeys } from "./keys";
import { usePresenting } from "../show/sharing";
import { STEP_VIEWS } from "./steps";

/** Loaded when it is first opened: most sessions never are in it. */
const Shop = lazy(() => import("../shop/Shop").then(({ Shop }) => ({ default: Shop })));

export function App() {
  const loaded = useShow((state) => state.loaded);
  const problem = useShow((state) => state.problem);
  useEffect(() => {
    let alive = true;
    const start = () =>
      loadAll()
        .then(() => void stayConnected())
        .catch(() => {
          if (alive) setTimeout(start, 1500);
        });
    void start();
    const leave = stayPresent();
    return () => {
      alive = false;
      leave();
    };
  }, []);
  if (!loaded) {
    return (
      <Flex height="100%" align="center" justify="center" color="dim" role="status">
        {problem ?? "Opening the show"}
      </Flex>
    );
  }
  // A pane that was given a window of its own is the picture alone.
  if (new URLSearchParams(location.search).has("pane")) return <PaneWindow />;
  return <Frame />;
}

function PaneWindow() {
  usePresenting();
  useKeys({ find: () => undefined, help: () => undefined });
  return (
    <Grid height="100%" templateRows="minmax(0, 1fr) 26px" templateColumns="minmax(0, 1fr) 0">
      <Flex direction="column" minWidth="0" minHeight="0" gridColumn="1 / 3">
        <StageView />
      </Flex>
      <StatusLine />
    </Grid>
  );
}

function Frame() {
  const step = useSelection((state) => state.step);
  const pictureOpen = usePicture((state) => state.open);
  const benchShown = usePanes((state) => state.benchShown);
  const [finding, setFinding] = useState(false);
  const [helping, setHelping] = useState(false);
  const [remembering, setRemembering] = useState(false);
  const [filing, setFiling] = useState(false);
  const benchHeight = usePanes((state) => state.benchHeight);
  const setBenchHeight = (height: number) => usePanes.setState({ benchHeight: height });
  usePresenting();
  useKeys({ find: () => setFinding(true), help: () => setHelping(true) });
  const shopOpen = useShop((state) => state.screen !== "none");
  const exchanging = useExchange((state) => state.open) && !shopOpen;
  const paged = shopOpen || exchanging;
  const { Card, Bench } = STEP_VIEWS[step];
  usePresenting();
  return (
    <Grid height="100%" templateRows="52px minmax(0, 1fr) 26px" templateColumns={{ base: "minmax(0, 1fr) 240px", lg: "minmax(0, 1fr) 308px" }}>
      <WorkLine onFind={() => setFinding(true)} onHistory={() => setRemembering(true)} onShow={() => setFiling(true)} />
      {shopOpen && <Suspense fallback={null}><Shop /></Suspense>}
      {exchanging && <Exchange />}
      {!paged && (
      <Flex direction="column" minWidth="0" minHeight="0">
        <StageView />
        {benchShown && (
          <>
            <BenchEdge height={benchHeight} onHeight={setBenchHeight} />
            <Flex as="section" aria-label="Bench" direction="column" height={`${benchHeight}px`} flex="none" bg="ink1" minHeight="0">
              <Bench />
            </Flex>
          </>
        )}
      </Flex>
      )}
      {!paged && (
      <Flex as="aside" aria-label="Card" direction="column" bg="ink2" borderLeft="1px solid" borderColor="line" minHeight="0" overflowY="auto" css={{ scrollbarGutter: "stable" }}>
        {pictureOpen ? <PicturePanel /> : <Card />}
      </Flex>
      )}
      <StatusLine />
      <Notices />
      <Drop />
      {finding && <FindDo onClose={() => setFinding(false)} onHistory={() => setRemembering(true)} />}
      {remembering && <HistoryPanel onClose={() => setRemembering(false)} />}
      {filing && <ShowPanel onClose={() => setFiling(false)} />}
      {helping && <KeysHelp onClose={() => setHelping(false)} />}
    </Grid>
  );
}

function BenchEdge({ height, onHeight }: { height: number; onHeight: (height: number) => void }) {
  return (
    <Box as="section" aria-label="Edge of the bench" zIndex={2}>
    <Box
      role="separator"
      aria-label="Height of the bench"
      aria-orientation="horizontal"
      aria-valuenow={height}
      tabIndex={0}
      height="5px"
      mt="-2px"
      zIndex={2}
      cursor="row-resize"
      borderTop="1px solid"
      borderColor="line"
      _hover={{ borderColor: "brass" }}
      onKeyDown={(event) => {
        if (event.key === "ArrowUp") onHeight(Math.min(height + 20, window.innerHeight * 0.45));
        if (event.key === "ArrowDown") onHeight(Math.max(height - 20, 90));
      }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        if (event.buttons === 1) onHeight(Math.max(90, Math.min(window.innerHeight - 26 - event.clientY, window.innerHeight * 0.45)));
      }}
    />
    </Box>
  );
}

/** One message. Its time begins when it is on screen, however busy the picture is. */
function NoticeLine({ notice }: { notice: Notice }) {
  useEffect(() => {
    const away = setTimeout(() => dismiss(notice.id), notice.tone === "done" ? 5000 : 12000);
    return () => clearTimeout(away);
  }, [notice]);
  return (
    <Flex
      align="center"
      gap="10px"
      bg="ink3"
      border="1px solid"
      borderColor={notice.tone === "wrong" ? "rose" : notice.tone === "attention" ? "ember" : "line"}
      borderRadius="5px"
      px="12px"
      py="6px"
      fontSize="12.5px"
      data-tone={notice.tone}
    >
      <Box flex="1">{notice.text}</Box>
      <Action look="quiet" height="22px" pointerEvents="auto" aria-label="Put this message away" onClick={() => dismiss(notice.id)}>
        ×
      </Action>
    </Flex>
  );
}

function Notices() {
  const notices = useMessages((state) => state.notices);
  return (
    <Flex position="fixed" left="14px" top="88px" direction="column" gap="6px" zIndex={20} maxWidth="460px" pointerEvents="none" role="status" aria-live="polite">
      {notices.map((notice) => (
        <NoticeLine key={notice.id} notice={notice} />
      ))}
    </Flex>
  );
}
