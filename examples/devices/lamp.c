/*
 * A lamp that Bold Relay commands over MQTT. Needs libmosquitto and cJSON:
 *   apt-get install gcc libc6-dev libmosquitto-dev libcjson-dev
 *   gcc -Wall -o lamp lamp.c -lmosquitto -lcjson
 *
 * Settings: BROKER, PORT, MQTT_USER, MQTT_PASSWORD, CLIENT_ID (default: the user); CA, a PEM file, for TLS;
 * TOPIC, the channel's: site/device/channel.
 * A press of its own button is `kill -USR1 PID`.
 */
#include <cjson/cJSON.h>
#include <mosquitto.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

static char done_topic[256], do_topic[256], is_topic[256], here_topic[256], boot[64];
static const char *state = "off", *cause = "boot"; /* the power-up rule of this lamp: it starts off */
static double off_at = 0;                          /* seconds; 0: no time runs */
static volatile sig_atomic_t pressed = 0;

static void press(int signal) { pressed = signal; }

static double now(void) {
  struct timespec at;
  clock_gettime(CLOCK_MONOTONIC, &at);
  return (double)at.tv_sec + (double)at.tv_nsec / 1e9;
}

static void say(struct mosquitto *client, const char *topic, const char *text, int retain) {
  mosquitto_publish(client, NULL, topic, (int)strlen(text), text, 1, retain);
}

/* Switches the relay, then reports what it is now. id: the command's, or NULL. */
static void switch_to(struct mosquitto *client, const char *to, const char *by, const char *id, double for_ms) {
  char text[256];
  state = to; /* here a real lamp sets its output pin */
  cause = by;
  off_at = for_ms > 0 && strcmp(to, "on") == 0 ? now() + for_ms / 1000 : 0; /* a newer command ends an older time */
  snprintf(text, sizeof text, id ? "{\"to\":\"%s\",\"by\":\"%s\",\"id\":\"%.64s\"}" : "{\"to\":\"%s\",\"by\":\"%s\"}", to, by, id);
  say(client, is_topic, text, 1);
}

static void on_connect(struct mosquitto *client, void *context, int code) {
  char text[128];
  if (code != 0) exit(fprintf(stderr, "The broker refused the connection: %d\n", code));
  mosquitto_subscribe(client, NULL, do_topic, 1);
  snprintf(text, sizeof text, "{\"up\":true,\"boot\":\"%s\"}", boot);
  say(client, here_topic, text, 1);
  switch_to(client, state, cause, NULL, off_at > 0 ? (off_at - now()) * 1000 : 0);
}

static void on_message(struct mosquitto *client, void *context, const struct mosquitto_message *message) {
  cJSON *command = cJSON_ParseWithLength(message->payload, (size_t)message->payloadlen);
  const char *id = cJSON_GetStringValue(cJSON_GetObjectItem(command, "id"));
  const char *to = cJSON_GetStringValue(cJSON_GetObjectItem(command, "to"));
  const cJSON *for_ms = cJSON_GetObjectItem(command, "for");
  int is_on = to && strcmp(to, "on") == 0, known = is_on || (to && strcmp(to, "off") == 0);
  char text[256];
  if (id && !strpbrk(id, "\"\\")) { /* without an id there is nothing to answer */
    snprintf(text, sizeof text, known ? "{\"id\":\"%.64s\",\"ok\":true,\"code\":1}" : "{\"id\":\"%.64s\",\"ok\":false,\"code\":2,\"why\":\"on or off\"}", id);
    say(client, done_topic, text, 0);
    if (known) switch_to(client, is_on ? "on" : "off", "command", id, cJSON_IsNumber(for_ms) ? for_ms->valuedouble : 0);
  }
  cJSON_Delete(command);
}

static const char *setting(const char *name, const char *fallback) { return getenv(name) ? getenv(name) : fallback; }

int main(void) {
  const char *topic = setting("TOPIC", ""), *user = setting("MQTT_USER", topic), *gone = "{\"up\":false}";
  const char *slash = strrchr(topic, '/');
  if (!slash) return fprintf(stderr, "TOPIC is missing: site/device/channel\n");
  snprintf(do_topic, sizeof do_topic, "%s/do", topic);
  snprintf(done_topic, sizeof done_topic, "%s/done", topic);
  snprintf(is_topic, sizeof is_topic, "%s/is", topic);
  snprintf(here_topic, sizeof here_topic, "%.*s/here", (int)(slash - topic), topic);
  snprintf(boot, sizeof boot, "%ld-%.0f", (long)time(NULL), now() * 1e6); /* a new one with every power-up */
  signal(SIGUSR1, press);
  mosquitto_lib_init();
  struct mosquitto *client = mosquitto_new(setting("CLIENT_ID", user), true, NULL);
  if (getenv("MQTT_USER")) mosquitto_username_pw_set(client, user, getenv("MQTT_PASSWORD"));
  if (getenv("CA")) mosquitto_tls_set(client, getenv("CA"), NULL, NULL, NULL, NULL);
  mosquitto_will_set(client, here_topic, (int)strlen(gone), gone, 1, true); /* the broker says it when we are gone */
  mosquitto_connect_callback_set(client, on_connect);
  mosquitto_message_callback_set(client, on_message);
  if (mosquitto_connect(client, setting("BROKER", "127.0.0.1"), atoi(setting("PORT", "1883")), 15) != MOSQ_ERR_SUCCESS) return 1;
  for (;;) {
    if (mosquitto_loop(client, 50, 1) != MOSQ_ERR_SUCCESS) mosquitto_reconnect(client);
    if (pressed) switch_to(client, strcmp(state, "on") == 0 ? "off" : "on", "hand", NULL, 0), pressed = 0;
    if (off_at > 0 && now() >= off_at) switch_to(client, "off", "timer", NULL, 0);
  }
}
