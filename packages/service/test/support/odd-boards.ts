/** Two dozen boards as engineers meet them, each described by data alone. */
import type { ChannelDescription } from "@bold-relay/core";
import { NO_TOPICS, type OddBoard, type Said } from "./odd-kit.ts";

const TIMES = { ackWithinMs: 3_500, attempts: 1, settleMs: 3_500, ttlMs: 20_000 } as const;
const relay = (slug: string, more: Partial<ChannelDescription> = {}): ChannelDescription => {
  return { slug, name: `Output ${slug}`, kind: "relay", ...more };
};
const two = [relay("one"), relay("two")];
const swapped = (on: string, off: string) => (to: string) => (to === on ? off : on);
const hex = (text: string) => Uint8Array.from((text.match(/../g) ?? []).map((pair) => Number.parseInt(pair, 16)));
const said = (topic: string, payload: string | Uint8Array): Said => ({ topic, payload });

export const ODD_BOARDS: Readonly<Record<string, OddBoard>> = {
  capitals: {
    about: "capitals, spaces and a leading slash in its topics; takes ON and OFF and says the same back",
    profile: {
      codec: { form: "text", words: { on: "ON", off: "OFF" } },
      topics: { ...NO_TOPICS, do: "/Hall Lights/{device}/{index}/SET", is: "/Hall Lights/{device}/{index}/STATE" },
      delivery: TIMES,
    },
    device: { channels: two },
    channel: "one",
    asks: [
      { action: "on", wire: "ON" },
      { action: "off", wire: "OFF" },
    ],
    firmware: (device) => ({
      listens: [`/Hall Lights/${device}/+/SET`],
      hear: (topic, text) => ({ output: topic.split("/")[3] ?? "", to: text }),
      ack: null,
      report: ({ output, to }) => [said(`/Hall Lights/${device}/${output}/STATE`, to)],
      otherOutput: "2",
      otherValue: swapped("ON", "OFF"),
    }),
  },

  "one-message": {
    about: "answers with one message that holds its result and its state; 0 is well, anything else an error code",
    profile: {
      codec: {
        form: "fields",
        do: { set: "{value}", cid: "{id}" },
        is: { value: "/out", id: "/cid" },
        done: { result: "/rc", id: "/cid", ok: [0], no: [] },
        here: { value: "/alive", up: true, down: false, boot: "/count" },
      },
      topics: {
        ...NO_TOPICS,
        do: "om/{device}/{channel}/cmd",
        done: "om/{device}/{channel}/st",
        is: "om/{device}/{channel}/st",
        here: "om/{device}/lwt",
      },
      delivery: TIMES,
    },
    device: { channels: two },
    channel: "one",
    asks: [
      { action: "on", wire: /^\{"set":"on","cid":"[0-9a-f-]{36}"\}$/ },
      { action: "off", wire: /^\{"set":"off","cid":"[0-9a-f-]{36}"\}$/ },
    ],
    firmware: (device) => ({
      listens: [`om/${device}/+/cmd`],
      hear: (topic, text) => {
        const { set, cid } = JSON.parse(text);
        return { output: topic.split("/")[2] ?? "", to: set, id: cid };
      },
      // Its error comes in the very message that says what it was asked for.
      ack: ({ output, to, id }, ok) =>
        said(`om/${device}/${output}/st`, JSON.stringify({ rc: ok ? 0 : 7, out: to, cid: id })),
      report: null,
      otherOutput: "two",
      otherValue: swapped("on", "off"),
      here: (up, boot) =>
        said(`om/${device}/lwt`, JSON.stringify(up ? { alive: true, count: boot } : { alive: false })),
      boots: true,
    }),
  },

  letters: {
    about: "one topic for all: A lights the first lamp, a puts it out, B and b the second; echoes the letter",
    profile: {
      codec: {
        form: "text",
        words: [
          { on: "A", off: "a" },
          { on: "B", off: "b" },
        ],
      },
      topics: { ...NO_TOPICS, do: "letters/{device}/in", is: "letters/{device}/out" },
      delivery: TIMES,
    },
    device: { channels: two },
    channel: "two",
    asks: [
      { action: "on", wire: "B" },
      { action: "off", wire: "b" },
    ],
    firmware: (device) => ({
      listens: [`letters/${device}/in`],
      hear: (_topic, text) => ({ output: text.toUpperCase(), to: text === text.toUpperCase() ? "1" : "0" }),
      ack: null,
      report: ({ output, to }) => [said(`letters/${device}/out`, to === "1" ? output : output.toLowerCase())],
      otherOutput: "A",
      otherValue: swapped("1", "0"),
    }),
  },

  "two-tongues": {
    about: "told in percent as L:35, reports JSON from 0 to 255, says ok on a topic for all",
    profile: {
      codec: {
        form: "apart",
        do: { form: "text", do: "L{index}:{value}" },
        done: { form: "text", done: { pattern: "{result} {index}", ok: ["ok"], no: ["no"] } },
        is: { form: "fields", do: {}, is: { value: "/level" }, range: [0, 255] },
        here: { form: "text", here: { up: "hi", down: "bye" } },
      },
      topics: { do: "tt/{device}/in", done: "tt/{device}/ok", is: "tt/{device}/{index}", here: "tt/{device}/here" },
      delivery: TIMES,
    },
    device: { channels: [relay("one", { kind: "dimmer" }), relay("two", { kind: "dimmer" })] },
    channel: "one",
    asks: [
      { action: "level", value: 35, wire: "L1:35" },
      { action: "off", wire: "L1:0" },
    ],
    firmware: (device) => ({
      listens: [`tt/${device}/in`],
      hear: (_topic, text) => ({ output: text.slice(1, 2), to: text.slice(3) }),
      ack: ({ output }, ok) => said(`tt/${device}/ok`, `${ok ? "ok" : "no"} ${output}`),
      report: ({ output, to }) => [said(`tt/${device}/${output}`, `{"level":${Math.round((Number(to) / 100) * 255)}}`)],
      otherOutput: "2",
      otherValue: (to) => String(100 - Number(to)),
      here: (up) => said(`tt/${device}/here`, up ? "hi" : "bye"),
    }),
  },

  "active-low": {
    about: "switches on at 0 and off at 1, and reports in words of its own",
    profile: {
      codec: {
        form: "apart",
        do: { form: "text", words: { on: 0, off: 1 } },
        is: { form: "text", words: { on: "closed", off: "open" } },
      },
      topics: { ...NO_TOPICS, do: "al/{device}/{channel}", is: "al/{device}/{channel}/contact" },
      delivery: TIMES,
    },
    device: { channels: two },
    channel: "one",
    asks: [
      { action: "on", wire: "0" },
      { action: "off", wire: "1" },
    ],
    firmware: (device) => ({
      listens: [`al/${device}/+`],
      hear: (topic, text) => ({ output: topic.split("/")[2] ?? "", to: text }),
      ack: null,
      report: ({ output, to }) => [said(`al/${device}/${output}/contact`, to === "0" ? "closed" : "open")],
      otherOutput: "two",
      otherValue: swapped("0", "1"),
    }),
  },

  strip: {
    about: "a strip that wants green before red, as six hexadecimal digits, and echoes them",
    profile: {
      codec: { form: "text", colours: "hex", colourOrder: "grb" },
      topics: { ...NO_TOPICS, do: "strip/{device}/{channel}/set", is: "strip/{device}/{channel}" },
      delivery: TIMES,
    },
    device: { channels: [relay("one", { kind: "colour" }), relay("two", { kind: "colour" })] },
    channel: "one",
    asks: [
      { action: "colour", value: "#112233", wire: "221133" },
      { action: "off", wire: "000000" },
    ],
    firmware: (device) => ({
      listens: [`strip/${device}/+/set`],
      hear: (topic, text) => ({ output: topic.split("/")[2] ?? "", to: text }),
      ack: null,
      report: ({ output, to }) => [said(`strip/${device}/${output}`, to)],
      otherOutput: "two",
      otherValue: () => "0000ff",
    }),
  },

  umlauts: {
    about: "each output has a topic that somebody typed in by hand, with umlauts and words of its own",
    profile: {
      codec: { form: "text" },
      topics: { ...NO_TOPICS, do: "{device}/{channel}", is: "{device}/{channel}/is" },
      delivery: TIMES,
    },
    device: {
      channels: [
        relay("one", {
          topics: { do: "Küche/Licht über Tisch", is: "Küche/Licht über Tisch/Zustand" },
          words: { on: "AN", off: "AUS" },
        }),
        relay("two", { topics: { do: "Flur/Licht", is: "Flur/Licht/Zustand" }, words: { on: "AN", off: "AUS" } }),
      ],
    },
    channel: "one",
    asks: [
      { action: "on", wire: "AN" },
      { action: "off", wire: "AUS" },
    ],
    firmware: () => ({
      listens: ["Küche/Licht über Tisch", "Flur/Licht"],
      hear: (topic, text) => ({ output: topic, to: text }),
      ack: null,
      report: ({ output, to }) => [said(`${output}/Zustand`, to)],
      otherOutput: "Flur/Licht",
      otherValue: swapped("AN", "AUS"),
    }),
  },

  "impulse-relay": {
    about: "an impulse relay in the fuse box: each P changes it, and an auxiliary contact tells what it is",
    profile: {
      codec: { form: "text", words: { pulse: "P", on: 1, off: 0 } },
      topics: { ...NO_TOPICS, do: "ir/{device}/{channel}/push", is: "ir/{device}/{channel}/aux" },
      delivery: TIMES,
    },
    device: {
      channels: [
        relay("one", {
          kind: "light",
          drive: "impulse",
          seenBy: { channel: "impulse-relay/aux" },
          topics: { is: null },
        }),
        relay("aux", { kind: "contact" }),
      ],
    },
    channel: "one",
    asks: [
      { action: "on", wire: "P" },
      { action: "off", wire: "P" },
    ],
    firmware: (device) => {
      let on = false;
      return {
        listens: [`ir/${device}/+/push`],
        hear: () => {
          on = !on;
          return { output: "aux", to: on ? "1" : "0" };
        },
        ack: null,
        report: ({ to }) => [said(`ir/${device}/aux/aux`, to)],
        hello: [said(`ir/${device}/aux/aux`, "0")],
      };
    },
  },

  gate: {
    about: "a gate with one button and two end contacts, made when it stands there",
    profile: {
      codec: { form: "text", words: { pulse: "go", on: "made", off: "free" } },
      topics: { ...NO_TOPICS, do: "gate/{device}/button", is: "gate/{device}/{channel}" },
      delivery: TIMES,
    },
    device: {
      channels: [
        relay("one", {
          kind: "position",
          drive: "impulse",
          seenBy: { open: "gate/is-open", shut: "gate/is-shut" },
          topics: { is: null },
        }),
        relay("is-open", { kind: "contact", made: "open" }),
        relay("is-shut", { kind: "contact", made: "shut" }),
      ],
    },
    channel: "one",
    asks: [
      { action: "open", wire: "go" },
      { action: "close", wire: "go" },
    ],
    firmware: (device) => {
      let open = false;
      const ends = (isOpen: boolean): Said[] => [
        said(`gate/${device}/is-${isOpen ? "shut" : "open"}`, "free"),
        said(`gate/${device}/is-${isOpen ? "open" : "shut"}`, "made"),
      ];
      return {
        listens: [`gate/${device}/button`],
        hear: () => {
          open = !open;
          return { output: "gate", to: open ? "open" : "shut" };
        },
        ack: null,
        report: ({ to }) => ends(to === "open"),
        hello: ends(false),
      };
    },
  },

  "two-way": {
    about: "a lamp between two switches: the relay is one of them, a light sensor tells whether it is lit",
    profile: {
      codec: { form: "text", words: { on: "up", off: "down" } },
      topics: { ...NO_TOPICS, do: "tw/{device}/{channel}/set", is: "tw/{device}/{channel}" },
      delivery: TIMES,
    },
    device: {
      channels: [
        relay("one", { kind: "light", drive: "flip", seenBy: { channel: "two-way/lux", above: 200, below: 50 } }),
        relay("lux", { kind: "sensor", unit: "lx" }),
      ],
    },
    channel: "one",
    asks: [
      { action: "on", wire: "down" },
      { action: "off", wire: "up" },
    ],
    // Somebody at the other switch has left it so that the lamp is dark while this one is up.
    firmware: (device) => ({
      listens: [`tw/${device}/one/set`],
      hear: (_topic, text) => ({ output: "one", to: text }),
      ack: null,
      report: ({ to }) => [said(`tw/${device}/one`, to), said(`tw/${device}/lux`, to === "down" ? "430" : "3")],
      hello: [said(`tw/${device}/one`, "up"), said(`tw/${device}/lux`, "3")],
    }),
  },

  metered: {
    about: "a heater behind a power meter: its relay reports, and the meter tells whether it heats",
    profile: {
      codec: { form: "text", words: { on: 1, off: 0 } },
      topics: { ...NO_TOPICS, do: "mt/{device}/{channel}/set", is: "mt/{device}/{channel}" },
      delivery: TIMES,
    },
    device: {
      channels: [
        relay("one", { seenBy: { channel: "metered/power", above: 500, below: 50 } }),
        relay("power", { kind: "sensor", unit: "W" }),
      ],
    },
    channel: "one",
    asks: [
      { action: "on", wire: "1" },
      { action: "off", wire: "0" },
    ],
    firmware: (device) => ({
      listens: [`mt/${device}/one/set`],
      hear: (_topic, text) => ({ output: "one", to: text }),
      ack: null,
      // A burnt-out heater: the relay says what it was told, the meter shows the truth.
      report: ({ to }) => [said(`mt/${device}/power`, to === "1" ? "1810" : "2")],
      otherValue: swapped("1", "0"),
      hello: [said(`mt/${device}/one`, "0"), said(`mt/${device}/power`, "2")],
    }),
  },

  sleeper: {
    about: "sleeps, and reads its command retained when it wakes; answers done with the number",
    profile: {
      codec: { form: "text", do: "{index}={value}", is: "{index}={value}", words: { on: 1, off: 0 } },
      topics: { ...NO_TOPICS, do: "sl/{device}/{index}/todo", is: "sl/{device}/now" },
      delivery: TIMES,
      retainCommands: true,
    },
    device: { channels: two },
    channel: "one",
    asks: [
      { action: "on", wire: "1=1" },
      { action: "off", wire: "1=0" },
    ],
    firmware: (device) => ({
      listens: [`sl/${device}/+/todo`],
      hear: (_topic, text) => (text === "" ? null : { output: text.slice(0, 1), to: text.slice(2) }),
      ack: null,
      report: ({ output, to }) => [said(`sl/${device}/now`, `${output}=${to}`)],
      otherOutput: "2",
      otherValue: swapped("1", "0"),
    }),
  },

  "stiff-motor": {
    about: "a motor with 10 bits, standing in the middle, that does not move below 40 %",
    profile: {
      codec: { form: "text", range: [0, 1_023] },
      topics: { ...NO_TOPICS, do: "sm/{device}/{channel}/pwm", is: "sm/{device}/{channel}/pwm-is" },
      delivery: { ...TIMES, autoOffMs: 60_000 },
    },
    device: {
      channels: [relay("one", { kind: "motor", calibration: { least: 40 } }), relay("two", { kind: "motor" })],
    },
    channel: "one",
    asks: [
      { action: "level", value: 1, wire: "719" },
      { action: "stop", wire: "512" },
    ],
    firmware: (device) => ({
      listens: [`sm/${device}/+/pwm`],
      hear: (topic, text) => ({ output: topic.split("/")[2] ?? "", to: text }),
      ack: null,
      report: ({ output, to }) => [said(`sm/${device}/${output}/pwm-is`, to)],
      otherOutput: "two",
      otherValue: (to) => (to === "512" ? "900" : "512"),
    }),
  },

  flicker: {
    about: "a dimmer that flickers below 5 %, with a curve, told how long to ramp, keys in an order it insists on",
    profile: {
      codec: {
        form: "fields",
        do: { t: "{ramp}", b: "{value}", a: "{index}" },
        is: { value: "/b", index: "/a" },
        range: [0, 4_095],
        done: { result: "/ack", index: "/a", ok: ["fine"], no: ["bad"] },
      },
      topics: { ...NO_TOPICS, do: "fl/{device}/in", done: "fl/{device}/ack", is: "fl/{device}/out" },
      delivery: TIMES,
    },
    device: {
      channels: [
        relay("one", { kind: "dimmer", calibration: { least: 5, curve: 2.2, rampMs: 300 } }),
        relay("two", { kind: "dimmer" }),
      ],
    },
    channel: "one",
    asks: [
      { action: "level", value: 50, wire: '{"t":300,"b":1051,"a":1}' },
      { action: "off", wire: '{"t":300,"b":0,"a":1}' },
    ],
    firmware: (device) => ({
      listens: [`fl/${device}/in`],
      hear: (_topic, text) => {
        const { b, a } = JSON.parse(text);
        return { output: String(a), to: String(b) };
      },
      ack: ({ output }, ok) =>
        said(`fl/${device}/ack`, JSON.stringify({ ack: ok ? "fine" : "bad", a: Number(output) })),
      report: ({ output, to }) => [said(`fl/${device}/out`, JSON.stringify({ a: Number(output), b: Number(to) }))],
      otherOutput: "2",
      otherValue: (to) => (to === "0" ? "4000" : "0"),
    }),
  },

  frames: {
    about: "frames of bytes with a sum; acknowledges with 06 or 15 and a code on the topic of its reports",
    profile: {
      codec: {
        form: "bytes",
        do: "A0 {index} {value} {sum}",
        is: "A1 {index} {value} {sum}",
        done: { pattern: "A2 {index} {result}", ok: [6] },
      },
      topics: { ...NO_TOPICS, do: "fr/{device}/in", done: "fr/{device}/out", is: "fr/{device}/out" },
      delivery: TIMES,
    },
    device: { channels: two },
    channel: "one",
    asks: [
      { action: "on", wire: "a00101a2" },
      { action: "off", wire: "a00100a1" },
    ],
    firmware: (device) => ({
      listens: [`fr/${device}/in`],
      hear: (_topic, _text, bytes) => ({ output: String(bytes[1]), to: String(bytes[2]) }),
      ack: ({ output }, ok) => said(`fr/${device}/out`, hex(`a20${output}${ok ? "06" : "15"}`)),
      report: ({ output, to }) => {
        const [index, value] = [Number(output), Number(to)];
        return [said(`fr/${device}/out`, Uint8Array.from([0xa1, index, value, (0xa1 + index + value) & 0xff]))];
      },
      otherOutput: "2",
      otherValue: swapped("1", "0"),
    }),
  },

  turns: {
    about: "1 and 0, and a bare result code on one topic for all: nothing names a channel or a command",
    profile: {
      codec: { form: "text", words: { on: 1, off: 0 }, done: { ok: [200], no: [] } },
      topics: { ...NO_TOPICS, do: "tu/{device}/{index}", done: "tu/{device}/rc", is: "tu/{device}/{index}/state" },
      delivery: TIMES,
    },
    device: { channels: two },
    channel: "one",
    asks: [
      { action: "on", wire: "1" },
      { action: "off", wire: "0" },
    ],
    firmware: (device) => ({
      listens: [`tu/${device}/+`],
      hear: (topic, text) => (topic.endsWith("/rc") ? null : { output: topic.split("/")[2] ?? "", to: text }),
      ack: (_heard, ok) => said(`tu/${device}/rc`, ok ? "200" : "503"),
      report: ({ output, to }) => [said(`tu/${device}/${output}/state`, to)],
      otherValue: swapped("1", "0"),
    }),
  },

  "text-ids": {
    about: "set, an id and a word; answers with that id and OK, or ERR and a number",
    profile: {
      codec: {
        form: "apart",
        do: { form: "text", do: "set {id} {value}" },
        done: { form: "text", done: { pattern: "{id} {result}", ok: ["OK"], no: ["ERR"] } },
        is: { form: "text" },
      },
      topics: {
        ...NO_TOPICS,
        do: "ti/{device}/{channel}/c",
        done: "ti/{device}/{channel}/a",
        is: "ti/{device}/{channel}/s",
      },
      delivery: TIMES,
    },
    device: { channels: two },
    channel: "one",
    asks: [
      { action: "on", wire: /^set [0-9a-f-]{36} on$/ },
      { action: "off", wire: /^set [0-9a-f-]{36} off$/ },
    ],
    firmware: (device) => ({
      listens: [`ti/${device}/+/c`],
      hear: (topic, text) => {
        const [, id = "", to = ""] = text.split(" ");
        return { output: topic.split("/")[2] ?? "", to, id };
      },
      ack: ({ output, id }, ok) => said(`ti/${device}/${output}/a`, `${id} ${ok ? "OK" : "ERR"}`),
      report: ({ output, to }) => [said(`ti/${device}/${output}/s`, to)],
      otherOutput: "two",
      otherValue: swapped("on", "off"),
    }),
  },

  "all-at-once": {
    about: "reports all of its relays in one list, whichever changed",
    profile: {
      codec: {
        form: "fields",
        do: { relay: "{index}", turn: "{value}" },
        is: { value: "/relays/{index}/ison" },
        words: { on: true, off: false },
      },
      indexFrom: 0,
      topics: { ...NO_TOPICS, do: "aa/{device}/rpc", is: "aa/{device}/status" },
      delivery: TIMES,
    },
    device: { channels: two },
    channel: "two",
    asks: [
      { action: "on", wire: '{"relay":1,"turn":true}' },
      { action: "off", wire: '{"relay":1,"turn":false}' },
    ],
    firmware: (device) => {
      const relays = [{ ison: false }, { ison: false }];
      return {
        listens: [`aa/${device}/rpc`],
        hear: (_topic, text) => {
          const { relay: output, turn } = JSON.parse(text);
          return { output: String(output), to: String(turn) };
        },
        ack: null,
        report: ({ output, to }) => {
          relays[Number(output)] = { ison: to === "true" };
          return [said(`aa/${device}/status`, JSON.stringify({ relays }))];
        },
        otherOutput: "0",
        otherValue: swapped("true", "false"),
      };
    },
  },

  "upside-down": {
    about: "a blind that counts from 0 (open) to 100 (shut) and stops at a word",
    profile: {
      codec: { form: "text", range: [100, 0], words: { stop: "HALT" } },
      topics: { ...NO_TOPICS, do: "ud/{device}/{channel}/go", is: "ud/{device}/{channel}/at" },
      delivery: TIMES,
    },
    device: { channels: [relay("one", { kind: "position" }), relay("two", { kind: "position" })] },
    channel: "one",
    asks: [
      { action: "level", value: 30, wire: "70" },
      { action: "close", wire: "100" },
    ],
    firmware: (device) => ({
      listens: [`ud/${device}/+/go`],
      hear: (topic, text) => ({ output: topic.split("/")[2] ?? "", to: text }),
      ack: null,
      report: ({ output, to }) => [said(`ud/${device}/${output}/at`, to)],
      otherOutput: "two",
      otherValue: (to) => (to === "100" ? "5" : "95"),
    }),
  },

  boiler: {
    about: "one output and fixed topics; on the topic of its state it also says that it is online",
    profile: {
      codec: { form: "text", words: { on: "heat", off: "idle" }, here: { up: "online", down: "offline" } },
      topics: { do: "Boiler/cmd", done: null, is: "Boiler/status", here: "Boiler/status" },
      delivery: TIMES,
    },
    device: { channels: [relay("one")] },
    channel: "one",
    asks: [
      { action: "on", wire: "heat" },
      { action: "off", wire: "idle" },
    ],
    firmware: () => ({
      listens: ["Boiler/cmd"],
      hear: (_topic, text) => ({ output: "one", to: text }),
      ack: null,
      report: ({ to }) => [said("Boiler/status", to)],
      otherValue: swapped("heat", "idle"),
      here: (up) => said("Boiler/status", up ? "online" : "offline"),
    }),
  },

  numbers: {
    about: "a colour as three numbers and a result in words, keys in an order of their own",
    profile: {
      codec: {
        form: "fields",
        do: { z: ["{red}", "{green}", "{blue}"], a: "{id}" },
        is: { red: "/z/0", green: "/z/1", blue: "/z/2" },
        done: { result: "/said", id: "/a", ok: ["yes"], no: ["nope"] },
      },
      topics: {
        ...NO_TOPICS,
        do: "nu/{device}/{channel}/i",
        done: "nu/{device}/{channel}/o",
        is: "nu/{device}/{channel}/s",
      },
      delivery: TIMES,
    },
    device: { channels: [relay("one", { kind: "colour" }), relay("two", { kind: "colour" })] },
    channel: "one",
    asks: [
      { action: "colour", value: "amber", wire: /^\{"z":\[255,191,0\],"a":"[0-9a-f-]{36}"\}$/ },
      { action: "off", wire: /^\{"z":\[0,0,0\],"a":"[0-9a-f-]{36}"\}$/ },
    ],
    firmware: (device) => ({
      listens: [`nu/${device}/+/i`],
      hear: (topic, text) => {
        const { z, a } = JSON.parse(text);
        return { output: topic.split("/")[2] ?? "", to: JSON.stringify(z), id: a };
      },
      ack: ({ output, id }, ok) =>
        said(`nu/${device}/${output}/o`, JSON.stringify({ said: ok ? "yes" : "nope", a: id })),
      report: ({ output, to }) => [said(`nu/${device}/${output}/s`, JSON.stringify({ z: JSON.parse(to) }))],
      otherOutput: "two",
      otherValue: () => "[1,2,3]",
    }),
  },

  newcomer: {
    about: "our own form, with ids, presence and power-up marks",
    profile: {
      codec: "json",
      topics: {
        do: "nc/{device}/{channel}/do",
        done: "nc/{device}/{channel}/done",
        is: "nc/{device}/{channel}/is",
        here: "nc/{device}/here",
      },
      delivery: TIMES,
    },
    device: { channels: two },
    channel: "one",
    asks: [
      { action: "on", wire: /^\{"id":"[0-9a-f-]{36}","to":"on"\}$/ },
      { action: "off", wire: /^\{"id":"[0-9a-f-]{36}","to":"off"\}$/ },
    ],
    firmware: (device) => ({
      listens: [`nc/${device}/+/do`],
      hear: (topic, text) => {
        const { id, to } = JSON.parse(text);
        return { output: topic.split("/")[2] ?? "", to, id };
      },
      ack: ({ output, id }, ok) => said(`nc/${device}/${output}/done`, JSON.stringify({ id, ok, code: ok ? 1 : 4 })),
      report: ({ output, to, id }) => [said(`nc/${device}/${output}/is`, JSON.stringify({ to, by: "command", id }))],
      otherOutput: "two",
      otherValue: swapped("on", "off"),
      here: (up, boot) => said(`nc/${device}/here`, JSON.stringify(up ? { up, boot } : { up })),
      boots: true,
    }),
  },
};
