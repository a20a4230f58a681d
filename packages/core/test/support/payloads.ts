/**
 * Payloads as firmware of the trade speaks them, in our words. Each sample is one fixture for every form: what is told,
 * to the byte, and what reports and answers mean.
 */
import type { KindName, PayloadForm, Value } from "../../src/index.ts";

export interface Sample {
  readonly about: string;
  readonly form: PayloadForm;
  readonly kind: KindName;
  readonly index?: number;
  readonly reversed?: boolean;
  /** Value → what goes out; bytes as "hex:a00101a2". {id} stands for the command's id. */
  readonly told?: readonly (readonly [Value, string])[];
  /** What comes in → value; null: about another channel; undefined: garbled. */
  readonly is?: readonly (readonly [string, Value | null | undefined])[];
  /** What comes in → yes, no and its code; null: about another channel; undefined: garbled. */
  readonly done?: readonly (readonly [string, { ok: boolean; code: number | null } | null | undefined])[];
  readonly here?: readonly (readonly [string, boolean | undefined])[];
}

export const samples: readonly Sample[] = [
  {
    about: "single characters",
    form: { form: "text", words: { on: "A", off: "a" } },
    kind: "relay",
    told: [
      ["on", "A"],
      ["off", "a"],
    ],
    // Both words are the same letter: whatever the case, the first that fits.
    is: [
      ["A", "on"],
      ["x", undefined],
      ["", undefined],
    ],
  },
  {
    about: "capital words, active-low",
    form: { form: "text", words: { on: "ON", off: "OFF" }, here: { up: "Online", down: "Offline" } },
    kind: "relay",
    reversed: true,
    told: [
      ["on", "OFF"],
      ["off", "ON"],
    ],
    is: [
      ["ON", "off"],
      [" off \r\n", "on"],
      ["offline", undefined],
    ],
    here: [
      ["online", true],
      ["Offline", false],
      ["gone", undefined],
    ],
  },
  {
    about: "one topic for all channels, by number",
    form: {
      form: "text",
      do: "R{index}={value}",
      is: "R{index}={value}",
      words: { on: 1, off: 0 },
      done: { pattern: "OK{index}", ok: ["OK"] },
    },
    kind: "relay",
    index: 3,
    told: [
      ["on", "R3=1"],
      ["off", "R3=0"],
    ],
    is: [
      ["R3=1", "on"],
      ["r3=0", "off"],
      ["R4=1", null],
      ["R3=2", undefined],
      ["3=1", undefined],
      ["R3=", undefined],
    ],
    done: [
      ["OK3", { ok: true, code: null }],
      ["OK4", null],
      ["ERR", undefined],
    ],
  },
  {
    about: "a level from 0 to 255, with a bare result number",
    form: { form: "text", range: [0, 255], done: { ok: [0] } },
    kind: "dimmer",
    told: [
      [0, "0"],
      [50, "128"],
      [100, "255"],
    ],
    is: [
      ["255", 100],
      ["128", 50],
      ["0", 0],
      ["off", 0],
      ["300", undefined],
      ["0x10", undefined],
      ["NaN", undefined],
      ["-0", 0],
    ],
    done: [
      ["0", { ok: true, code: 0 }],
      ["7", { ok: false, code: 7 }],
      ["perhaps", undefined],
    ],
  },
  {
    about: "a level from 1023 down to 0",
    form: { form: "text", range: [1023, 0], do: "set {value}", is: "pos {value}" },
    kind: "position",
    told: [
      [0, "set 1023"],
      [100, "set 0"],
      ["stop", "set stop"],
    ],
    is: [
      ["pos 1023", 0],
      ["POS 0", 100],
      ["pos 512", 50],
      // 512 is written for 50 %: 511 is a little more.
      ["pos 511", 50.05],
    ],
  },
  {
    about: "parts in any order, with others among them",
    form: {
      form: "text",
      anyOrder: ";",
      do: "ch={index};state={value}",
      is: "state={value};ch={index}",
      words: { on: "1", off: "0" },
    },
    kind: "relay",
    index: 3,
    told: [["on", "ch=3;state=1"]],
    is: [
      ["ch=3;rssi=-60;state=1", "on"],
      ["state=0;ch=3", "off"],
      ["state=1;ch=4", null],
      ["state=1;rssi=-60", undefined],
      ["state=1;ch=", undefined],
    ],
  },
  {
    about: "its place in a list, with what does not count before it",
    form: { form: "text", do: "set {index} {value}", is: "OUT {*}:{list}", words: { on: ["1", "X"], off: ["0", "-"] } },
    kind: "relay",
    index: 2,
    told: [
      ["on", "set 2 1"],
      ["off", "set 2 0"],
    ],
    is: [
      ["OUT 17:0,1,0", "on"],
      ["OUT :0,-,1", "off"],
      ["OUT x:1,X", "on"],
      ["OUT 17:1", undefined],
      ["OUT 17", undefined],
    ],
  },
  {
    about: "characters side by side, one a channel",
    form: { form: "text", is: "{list}", listSeparator: "", words: { on: 1, off: 0 } },
    kind: "relay",
    index: 3,
    is: [
      ["0010", "on"],
      ["1101", "off"],
      ["11", undefined],
    ],
  },
  {
    about: "hexadecimal digits, two of them, for a level to 255",
    form: { form: "text", do: "L{value}", is: "L{value}", base: 16, digits: 2, range: [0, 255] },
    kind: "dimmer",
    told: [
      [100, "Lff"],
      [50, "L80"],
      [1, "L03"],
      [0, "L00"],
    ],
    is: [
      ["LFF", 100],
      ["L80", 50],
      ["L7f", 49.8],
      ["L0x10", undefined],
      ["L100", undefined],
    ],
  },
  {
    about: "a reading in tenths, hexadecimal, below zero as two's complement",
    form: { form: "text", base: 16, digits: 4, signedBits: 16, scale: 0.1 },
    kind: "sensor",
    is: [
      ["00d7", 21.5],
      ["FFF6", -1],
      ["12345", undefined],
      ["banana", undefined],
    ],
  },
  {
    about: "a reading with a decimal comma, from degrees Fahrenheit",
    form: { form: "text", comma: true, scale: 5 / 9, offset: -160 / 9 },
    kind: "sensor",
    is: [
      ["212,0", 100],
      ["32", 0],
      ["21.5", undefined],
    ],
  },
  {
    about: "Latin-1",
    form: { form: "text", charset: "latin1", words: { on: "größer", off: "aus" } },
    kind: "relay",
    told: [["on", "hex:6772f6df6572"]],
    is: [
      ["hex:6772f6df6572", "on"],
      ["aus", "off"],
    ],
  },
  {
    about: "hue, saturation and brightness in a text",
    form: { form: "text", colours: "hsv" },
    kind: "colour",
    told: [
      ["#ff0000", "0,100,100"],
      ["#000000", "0,0,0"],
      ["#0000ff", "240,100,100"],
    ],
    is: [
      ["240,100,100", "#0000ff"],
      ["0,0,100", "#ffffff"],
      ["255,136,0", undefined],
      ["#ff0000", undefined],
    ],
  },
  {
    about: "hue to 255 in fields, and constants that must match",
    form: {
      form: "fields",
      do: { dev: 7, out: "{index}", h: "{hue}", s: "{saturation}", v: "{brightness}" },
      is: { hue: "/h", saturation: "/s", brightness: "/v", index: "/out", match: { "/dev": 7 } },
      hsvRange: [255, 255],
    },
    kind: "colour",
    told: [["#ff0000", '{"dev":7,"out":1,"h":0,"s":255,"v":255}']],
    is: [
      ['{"dev":7,"out":1,"h":0,"s":255,"v":255}', "#ff0000"],
      ['{"dev":9,"out":1,"h":0,"s":255,"v":255}', null],
      ['{"out":1,"h":0,"s":255,"v":255}', null],
      ['{"dev":7,"out":2,"h":0,"s":255,"v":255}', null],
      ['{"dev":7,"out":1,"h":300,"s":255,"v":255}', undefined],
    ],
  },
  {
    about: "the low byte first, two of them, and any byte between",
    form: { form: "bytes", do: "B1 {index} {value16le} {sum}", is: "B2 {*} {index} {value16le}", range: [0, 1_000] },
    kind: "dimmer",
    told: [
      [100, "hex:b101e8039d"],
      [50, "hex:b101f401a7"],
    ],
    is: [
      ["hex:b27f01e803", 100],
      ["hex:b20001f401", 50],
      ["hex:b20002f401", null],
      ["hex:b201f401", undefined],
    ],
  },
  {
    about: "four bytes, below zero as two's complement",
    form: { form: "bytes", is: "{value32}", signedBits: 32, scale: 0.01 },
    kind: "sensor",
    is: [
      ["hex:00000866", 21.5],
      ["hex:ffffff9c", -1],
    ],
  },
  {
    about: "two decimal digits in a byte",
    form: { form: "bytes", do: "{bcd}", range: [0, 99] },
    kind: "dimmer",
    told: [
      [100, "hex:99"],
      [35, "hex:35"],
    ],
    is: [
      ["hex:35", 35],
      ["hex:3a", undefined],
    ],
  },
  {
    about: "words for its ends and for the way between them",
    form: {
      form: "text",
      words: { open: ["OPEN", "up"], shut: "CLOSED", stop: "HALT", moving: ["OPENING", "CLOSING"] },
    },
    kind: "position",
    told: [
      [100, "OPEN"],
      [0, "CLOSED"],
      ["stop", "HALT"],
      [40, "40"],
    ],
    is: [
      ["up", 100],
      ["opening", "moving"],
      ["CLOSED", 0],
      ["40", 40],
      ["AJAR", undefined],
    ],
  },
  {
    about: "a share from 0 to 1 with two digits",
    form: { form: "text", range: [0, 1], decimals: 2 },
    kind: "dimmer",
    told: [
      [35, "0.35"],
      [100, "1"],
    ],
    is: [
      ["0.35", 35],
      ["1.00", 100],
      ["1.0.0", undefined],
    ],
  },
  {
    about: "a colour in three numbers",
    form: { form: "text", do: "{red},{green},{blue}", is: "{value}" },
    kind: "colour",
    told: [["#ff8800", "255,136,0"]],
    is: [
      ["255,136,0", "#ff8800"],
      ["#FF8800", "#ff8800"],
      ["f80", "#ff8800"],
      ["amber", "#ffbf00"],
      ["255,136,256", undefined],
    ],
  },
  {
    about: "JSON of its own, all channels in one report",
    form: {
      form: "fields",
      do: { relay: "{index}", state: "{value}", cid: "{id}" },
      words: { on: true, off: false },
      is: { value: "/relays/{index}/on", by: "/source", causes: { hand: ["button"], boot: ["init"] } },
      done: { result: "/result", id: "/cid" },
      here: { value: "/online", up: true, down: false, boot: "/count" },
    },
    kind: "relay",
    index: 1,
    told: [["on", '{"relay":1,"state":true,"cid":"{id}"}']],
    is: [
      ['{"relays":[{"on":true},{"on":false}]}', "off"],
      ['{"relays":[{"on":true}]}', null],
      ['{"relays":[{},{"on":"perhaps"}]}', undefined],
      ["[", undefined],
      ["null", null],
    ],
    done: [
      ['{"result":"ok","cid":"x"}', { ok: true, code: null }],
      ['{"result":false}', { ok: false, code: null }],
      ['{"result":{}}', undefined],
    ],
    here: [
      ['{"online":true,"count":7}', true],
      ['{"online":false}', false],
      ["{}", undefined],
    ],
  },
  {
    about: "JSON with numbers for a colour and a plain last will",
    form: {
      form: "fields",
      do: { rgb: ["{red}", "{green}", "{blue}"] },
      is: { red: "/rgb/0", green: "/rgb/1", blue: "/rgb/2" },
      here: { up: "alive", down: "dead" },
    },
    kind: "colour",
    told: [["#0a0b0c", '{"rgb":[10,11,12]}']],
    is: [
      ['{"rgb":[10,11,12]}', "#0a0b0c"],
      ['{"rgb":[10,11]}', undefined],
      ['{"rgb":[10,11,1200]}', undefined],
    ],
    here: [
      ["alive", true],
      ["dead", false],
      ['{"alive":1}', undefined],
    ],
  },
  {
    about: "four bytes with a check sum",
    form: { form: "bytes", do: "A0 {index} {value} {sum}", done: { pattern: "06" } },
    kind: "relay",
    index: 1,
    told: [
      ["on", "hex:a00101a2"],
      ["off", "hex:a00100a1"],
    ],
    is: [
      ["hex:a00101a2", "on"],
      ["hex:a00100a1", "off"],
      ["hex:a00201a3", null],
      ["hex:a00101a3", undefined],
      ["hex:a001", undefined],
      ["hex:a00105a6", undefined],
    ],
    done: [
      ["hex:06", { ok: true, code: null }],
      ["hex:15", undefined],
    ],
    here: [
      ["hex:01", true],
      ["hex:00", false],
      ["hex:02", undefined],
    ],
  },
  {
    about: "a level in two bytes",
    form: { form: "bytes", do: "02 {value16}", range: [0, 4095] },
    kind: "dimmer",
    told: [
      [100, "hex:020fff"],
      [0, "hex:020000"],
    ],
    is: [
      ["hex:020fff", 100],
      ["hex:020800", 50],
    ],
  },
  {
    about: "a reading",
    form: { form: "fields", do: null, is: { value: "/t" } },
    kind: "sensor",
    is: [
      ['{"t":21.5}', 21.5],
      ['{"t":"-3.25"}', -3.25],
      ['{"t":1e400}', undefined],
      ['{"t":null}', undefined],
    ],
  },
];
