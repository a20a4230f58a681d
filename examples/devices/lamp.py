#!/usr/bin/env python3
"""A lamp that Bold Relay commands over MQTT. Needs paho-mqtt (Debian: python3-paho-mqtt).

Settings: BROKER, PORT, MQTT_USER, MQTT_PASSWORD, CLIENT_ID (default: the user); CA, a PEM file, for TLS;
TOPIC, the channel's: site/device/channel.
A press of its own button is `kill -USR1 PID`.
"""
import json, os, signal, sys, threading, uuid
import paho.mqtt.client as mqtt

TOPIC = os.environ["TOPIC"]
HERE = TOPIC.rsplit("/", 1)[0] + "/here"
BOOT = str(uuid.uuid4())  # a new one with every power-up
lock = threading.RLock()  # the button, the timer and the network come on threads of their own
state, cause, timer = "off", "boot", None  # the power-up rule of this lamp: it starts off


def switch(to, by, command_id=None, for_ms=None):
    """Switch the relay, then report what it is now."""
    global state, cause, timer
    with lock:
        if timer:
            timer.cancel()  # a newer command ends the time of an older one
        timer = None
        state, cause = to, by  # here a real lamp sets its output pin
        if to == "on" and for_ms:
            timer = threading.Timer(for_ms / 1000, switch, ["off", "timer"])
            timer.daemon = True
            timer.start()
        report(command_id)


def report(command_id=None):
    says = {"to": state, "by": cause}
    if command_id:
        says["id"] = command_id
    client.publish(TOPIC + "/is", json.dumps(says), qos=1, retain=True)


def on_connect(client, _userdata, _flags, code, *_more):
    if code != 0:
        sys.exit(f"The broker refused the connection: {code}")
    client.subscribe(TOPIC + "/do", qos=1)
    client.publish(HERE, json.dumps({"up": True, "boot": BOOT}), qos=1, retain=True)
    report()


def on_message(client, _userdata, message):
    try:
        command = json.loads(message.payload)
        command_id, to = command["id"], command["to"]
    except (ValueError, KeyError, TypeError):
        return  # not a command: without an id there is nothing to answer
    if to not in ("on", "off"):
        answer = {"id": command_id, "ok": False, "code": 2, "why": "on or off"}
        client.publish(TOPIC + "/done", json.dumps(answer), qos=1)
        return
    client.publish(TOPIC + "/done", json.dumps({"id": command_id, "ok": True, "code": 1}), qos=1)
    switch(to, "command", command_id, command.get("for"))


version = getattr(mqtt, "CallbackAPIVersion", None)  # paho-mqtt 2 wants one, 1.6 has none
client = mqtt.Client(*([version.VERSION2] if version else []), client_id=os.environ.get("CLIENT_ID") or os.environ.get("MQTT_USER", TOPIC))
if "MQTT_USER" in os.environ:
    client.username_pw_set(os.environ["MQTT_USER"], os.environ.get("MQTT_PASSWORD"))
if "CA" in os.environ:
    client.tls_set(os.environ["CA"])
client.will_set(HERE, json.dumps({"up": False}), qos=1, retain=True)  # the broker says it when we are gone
client.on_connect, client.on_message = on_connect, on_message
pressed = threading.Event()
signal.signal(signal.SIGUSR1, lambda *_: pressed.set())
client.connect(os.environ.get("BROKER", "127.0.0.1"), int(os.environ.get("PORT", "1883")), keepalive=15)
client.loop_start()
while True:  # a signal may not publish by itself
    if pressed.wait(0.1):
        pressed.clear()
        switch("off" if state == "on" else "on", "hand")
