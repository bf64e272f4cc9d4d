/* Plays the first five seconds of the demo's round on the demo's profile, and prints what happens. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include "tidy_lever.h"

static char *whole(const char *path, size_t *length) {
    FILE *file = fopen(path, "rb");
    if (!file) { perror(path); exit(2); }
    fseek(file, 0, SEEK_END);
    *length = (size_t)ftell(file);
    rewind(file);
    char *text = malloc(*length + 1);
    if (!text || fread(text, 1, *length, file) != *length) { perror(path); exit(2); }
    fclose(file);
    return text;
}

static uint64_t found(const tl_linkage *linkage, uint8_t noun, const char *name) {
    char fault[256];
    uint64_t handle = tl_find(linkage, noun, name, strlen(name), fault, sizeof fault);
    if (!handle) { fprintf(stderr, "%s\n", fault); exit(2); }
    return handle;
}

/* Lines of the tape: a key, or the fact `grounded`. */
static const struct { uint64_t at; const char *key; int value; } TAPE[] = {
    { 1200000, "keys:KeyD", 1 },  { 1670660, "keys:Space", 1 }, { 1687660, NULL, 0 },
    { 1784565, "keys:Space", 0 }, { 2321287, NULL, 1 },         { 3173838, "keys:KeyD", 0 },
    { 3529704, "keys:KeyD", 1 },  { 3964107, "keys:Space", 1 }, { 3981107, NULL, 0 },
    { 4094188, "keys:Space", 0 }, { 4419791, NULL, 1 },
};

int main(int count, char **arguments) {
    if (count != 3) return 2;
    size_t length;
    char *profile = whole(arguments[1], &length);
    uint64_t step = strtoull(arguments[2], NULL, 10);
    char fault[4096];
    tl_linkage *linkage = tl_linkage_build(profile, length, NULL, 0, fault, sizeof fault);
    free(profile);
    if (!linkage) { fprintf(stderr, "%s\n", fault); return 1; }
    uint64_t grounded = found(linkage, TL_NOUN_FACT, "grounded"), steer = found(linkage, TL_NOUN_STICK, "steer");
    tl_seat *seat = tl_seat_new(linkage, 0);
    tl_linkage_free(linkage);
    tl_bookmark *bookmark = tl_bookmark_new(seat);

    size_t next = 0, lines = sizeof TAPE / sizeof *TAPE;
    static char text[65536];
    for (uint64_t now = 0; now < 5000000;) {
        now += step;
        for (; next < lines && TAPE[next].at <= now; next++) {
            if (TAPE[next].key) {
                tl_event event = { .at = TAPE[next].at, .kind = TL_EVENT_KIND_LEVEL, .x = (float)TAPE[next].value,
                                   .control = tl_control(TAPE[next].key, strlen(TAPE[next].key)) };
                if (tl_feed(seat, &event) != TL_FED_TAKEN) return 3;
            } else if (tl_tell(seat, grounded, TAPE[next].value, TAPE[next].at) != TL_TOLD_TAKEN) {
                return 3;
            }
        }
        tl_advance(seat, now);
        if (!tl_read(seat, bookmark)) return 4;
        tl_lines(seat, bookmark, false, text, sizeof text);
        fputs(text, stdout);
    }
    tl_stick_reading reading;
    if (!tl_stick(seat, NULL, steer, &reading) || reading.direction != TL_DIRECTION_RIGHT || reading.x != 1) return 5;
    tl_bookmark_free(bookmark);
    tl_seat_free(seat);
    return 0;
}
