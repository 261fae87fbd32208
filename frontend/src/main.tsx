import "@fontsource-variable/instrument-sans";
import "@fontsource/ibm-plex-mono/400.css";
import { ChakraProvider } from "@chakra-ui/react";
import { createRoot } from "react-dom/client";
import { App } from "./app/App";
import { system } from "./kit/theme";

createRoot(document.getElementById("root") as HTMLElement).render(
  <ChakraProvider value={system}>
    <App />
  </ChakraProvider>,
);
