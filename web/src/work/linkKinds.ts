import type { Module } from "../api/client";

/** The kinds of link as people call them. */
export const linkKinds: Record<Module["link"]["kind"], string> = {
  backpack: "I²C backpack",
  shift: "Shift register",
  parallel4: "4-bit parallel",
  parallel8: "8-bit parallel",
};
