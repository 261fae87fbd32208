import { Flex, type FlexProps } from "@chakra-ui/react";

/** Paper: the same tokens in light, for what is read as it will be printed. */
export const LIGHT = {
  ink0: "#c9d1ce", ink1: "#fafaf7", ink2: "#eef1ee", ink3: "#e0e6e2", line: "#bfc9c5", text: "#17211f", dim: "#45544f", faint: "#566560",
  brass: "#76510c", brassDeep: "#ecd9ab", onBrass: "#ffffff", onBrassDeep: "#3d2a03", verdigris: "#0f604d", verdigrisDeep: "#cde6de", ember: "#8f4206", rose: "#a01f38",
} as const;

const VARIABLES = Object.fromEntries(Object.entries(LIGHT).map(([name, value]) => [`--chakra-colors-${name.replace(/[A-Z]/g, (sign) => `-${sign.toLowerCase()}`)}`, value]));

/** What is in it is drawn in light. */
export function Light(props: FlexProps) {
  return <Flex direction="column" minHeight="0" bg="ink1" color="text" css={VARIABLES} {...props} />;
}
