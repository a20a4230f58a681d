#!/usr/bin/env node
/**
 * Offers a sheet with one wish to a sheet inlet, and prints the states that the inlet writes back.
 *
 * The inlet has settings: { url: http://HOST:PORT/sheet.csv, writeUrl: http://HOST:PORT/states.csv }.
 * Settings: HOST, PORT; CHANNEL; WANT, like on or 40. The wish is offered from the second look on: what stood there before is only noted.
 */
import { randomUUID } from "node:crypto";
import { createServer } from "node:http";

const { HOST = "127.0.0.1", PORT, CHANNEL, WANT } = process.env;
const empty = "id,channel,want\r\n";
const wish = `${randomUUID()},"${CHANNEL}",${WANT}\r\n`;
let looks = 0;

createServer((request, response) => {
  if (request.method === "PUT") {
    request.pipe(process.stdout, { end: false });
    return request.on("end", () => response.writeHead(204).end());
  }
  looks += 1;
  response.writeHead(200, { "content-type": "text/csv; charset=utf-8" }).end(looks === 1 ? empty : empty + wish);
}).listen(Number(PORT), HOST);
