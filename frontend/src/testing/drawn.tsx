import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, render } from "@testing-library/react";
import type { ReactElement } from "react";
import { afterEach } from "vitest";
import { system } from "../kit/theme";

afterEach(cleanup);

/** Something on a page, with the theme, as the application draws it. */
export function drawn(what: ReactElement) {
  return render(<ChakraProvider value={system}>{what}</ChakraProvider>);
}
