/**
 * Command, acknowledgement and report described apart: each a form of its own, with its own words, range, polarity and colours.
 * It only puts codecs together; `index.ts` binds the parts.
 */
import type { ChannelCodec, Firmware } from "./codec.ts";

/** The service's side: written in one form, read in others. */
export function joinCodecs(told: ChannelCodec, done: ChannelCodec, is: ChannelCodec): ChannelCodec {
  return {
    namesCommand: done.namesCommand,
    namesChannel: { do: told.namesChannel.do, done: done.namesChannel.done, is: is.namesChannel.is },
    bitOf: told.bitOf,
    aside: { write: told.aside.write, read: is.aside.read },
    levels: {
      levelWritten: told.levels.levelWritten,
      colourWritten: (colour) => is.levels.colourWritten(told.levels.colourWritten(colour)),
      // Reported in another form: what is written for a level, as this form says it.
      spanAround: (level, tolerance) => is.levels.spanAround(told.levels.levelWritten(level), tolerance),
    },
    encode: told.encode,
    encodeAsk: told.encodeAsk,
    decodeDone: done.decodeDone,
    decodeIs: is.decodeIs,
  };
}

/** The device's side. */
export function joinFirmware(told: Firmware, done: Firmware, is: Firmware): Firmware {
  return { bitOf: is.bitOf, isAsked: told.isAsked, hear: told.hear, answer: done.answer, report: is.report };
}
