import { chakra } from "@chakra-ui/react";

/** The mark: a pierced cup holder seen from above. */
export function Mark() {
  return (
    <chakra.svg width="30px" height="30px" viewBox="-15 -15 30 30" fill="none" stroke="brass" strokeWidth="1.3" aria-hidden>
      <circle r="13" />
      <circle r="4.2" />
      {[0, 45, 90, 135, 180, 225, 270, 315].map((turn) => (
        <path key={turn} d="M-2.2-12.6Q0-7 2.2-12.6" transform={`rotate(${turn})`} />
      ))}
    </chakra.svg>
  );
}
