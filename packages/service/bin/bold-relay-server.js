#!/usr/bin/env node
import "../src/main.ts";
