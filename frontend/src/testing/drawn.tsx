import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, configure, render } from "@testing-library/react";
import type { ReactElement, ReactNode } from "react";
import { afterEach } from "vitest";
import { system } from "../kit/theme";

// What is hidden is told by the test itself: looking for it takes most of the time here.
// What is waited for may take long, where several tests share a core.
configure({ defaultHidden: true, asyncUtilTimeout: 20_000 });
afterEach(cleanup);

/** Something on a page, with the theme, as the application draws it. */
export function drawn(what: ReactElement) {
  return render(what, { wrapper: Themed });
}

function Themed({ children }: { children: ReactNode }) {
  return <ChakraProvider value={system}>{children}</ChakraProvider>;
}
