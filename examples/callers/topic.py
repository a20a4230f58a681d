#!/usr/bin/env python3
"""Publishes to a topic inlet, and waits for its answer on a response topic (MQTT 5). Needs paho-mqtt.

The inlet needs settings: { answer: true }.
Settings: BROKER, PORT, MQTT_USER, MQTT_PASSWORD; TOPIC; PAYLOAD.
"""
import os, sys, threading, uuid
import paho.mqtt.client as mqtt
from paho.mqtt.packettypes import PacketTypes
from paho.mqtt.properties import Properties

answered = threading.Event()
asked = Properties(PacketTypes.PUBLISH)
asked.ResponseTopic = f"answers/{uuid.uuid4()}"
asked.CorrelationData = uuid.uuid4().bytes


def on_message(_client, _userdata, message):
    if message.properties.CorrelationData == asked.CorrelationData:
        print(message.payload.decode())
        answered.set()


version = getattr(mqtt, "CallbackAPIVersion", None)  # paho-mqtt 2 wants one, 1.6 has none
client = mqtt.Client(*([version.VERSION2] if version else []), protocol=mqtt.MQTTv5)
if "MQTT_USER" in os.environ:
    client.username_pw_set(os.environ["MQTT_USER"], os.environ.get("MQTT_PASSWORD"))
client.on_message = on_message
# First the subscription stands, then the question goes out.
client.on_subscribe = lambda *_: client.publish(os.environ["TOPIC"], os.environ["PAYLOAD"], qos=1, properties=asked)
client.connect(os.environ.get("BROKER", "127.0.0.1"), int(os.environ.get("PORT", "1883")))
client.on_connect = lambda *_: client.subscribe(asked.ResponseTopic, qos=1)
client.loop_start()
sys.exit(0 if answered.wait(15) else "No answer within 15 s.")
