// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { desk } from "../testing/desk";
import { useLink } from "./connection";
import { useShow } from "./document";
import { stayConnected } from "./link";
import { useMessages } from "./messages";

/** A socket as the page sees it: opened, told, closed by the test. */
class Socket {
  static all: Socket[] = [];
  static readonly OPEN = 1;
  readyState = 1;
  binaryType = "";
  onopen = (): void => undefined;
  onclose = (): void => undefined;
  onmessage: (message: { data: string }) => void = () => undefined;
  constructor(readonly url: string) {
    Socket.all.push(this);
  }
  send(): void {
    return undefined;
  }
}

beforeEach(() => {
  vi.useFakeTimers();
  Socket.all = [];
  vi.stubGlobal("WebSocket", Socket);
  useShow.setState({ id: "s" });
  useMessages.setState({ notices: [], said: [] });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("the live socket", () => {
  it("is opened again with a fresh ticket when it was closed, however that came", async () => {
    let tickets = 0;
    desk({ "/ticket": () => ({ url: "ws://127.0.0.1:1/", ticket: `t${++tickets}` }) });
    await stayConnected();
    Socket.all[0]?.onopen();
    expect(useLink.getState().connected).toBe(true);
    Socket.all[0]?.onclose();
    expect(useLink.getState().connected).toBe(false);
    await vi.advanceTimersByTimeAsync(400);
    expect(Socket.all.map(({ url }) => url)).toEqual(["ws://127.0.0.1:1/?ticket=t1", "ws://127.0.0.1:1/?ticket=t2"]);
  });

  it("says what the picture could not do", async () => {
    desk({ "/ticket": { url: "ws://127.0.0.1:1/", ticket: "t" } });
    await stayConnected();
    Socket.all[0]?.onmessage({ data: JSON.stringify({ event: "trouble", text: "The picture could not take in the last change." }) });
    expect(useMessages.getState().notices).toMatchObject([{ text: "The picture could not take in the last change.", tone: "wrong" }]);
  });
});
