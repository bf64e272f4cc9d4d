/*
 * Otter Post in C: a profile, a seat, and a loop of fixed steps.
 *
 * A game feeds what its window and its pads say; here a short script stands in for them.
 */
#include <stdio.h>
#include <string.h>
#include "tidy_lever.h"

#define TEXT(text) text, strlen(text)

static const char *PROFILE =
    "tidy-lever = 1\n"
    "title = \"The ferry quay\"\n"
    "[facts]\n"
    "grounded = true\n"
    "[action.steer]\n"
    "kind = \"stick\"\n"
    "keys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n"
    "pad = \"left-stick\"\n"
    "pad_shape = { dead = 0.15 }\n"
    "[action.hop]\n"
    "kind = \"button\"\n"
    "keys = \"Space\"\n"
    "pad = \"south\"\n"
    "when = \"grounded within 90ms\"\n"
    "keep = \"120ms\"\n";

/* What Pim's hands do: a key, down or up, at a moment in microseconds. */
static const struct { uint64_t at; const char *key; float down; } HANDS[] = {
    { 100000, "keys:KeyD", 1 },  { 400000, "keys:Space", 1 }, { 460000, "keys:Space", 0 },
    { 870000, "keys:Space", 1 }, { 920000, "keys:Space", 0 }, { 1300000, "keys:KeyD", 0 },
};

static uint64_t found(const tl_linkage *linkage, uint8_t noun, const char *name) {
    char fault[256];
    uint64_t handle = tl_find(linkage, noun, TEXT(name), fault, sizeof fault);
    if (!handle) fprintf(stderr, "%s\n", fault);
    return handle;
}

int main(void) {
    char fault[4096];
    tl_linkage *linkage = tl_linkage_build(TEXT(PROFILE), NULL, 0, fault, sizeof fault);
    if (!linkage) {
        fprintf(stderr, "%s\n", fault);
        return 1;
    }
    uint64_t steer = found(linkage, TL_NOUN_STICK, "steer");
    uint64_t hop = found(linkage, TL_NOUN_BUTTON, "hop");
    uint64_t grounded = found(linkage, TL_NOUN_FACT, "grounded");
    if (!steer || !hop || !grounded) return 1;
    tl_seat *seat = tl_seat_new(linkage, 0);
    tl_linkage_free(linkage);

    double x = 0, y = 0, fall = 0;
    size_t next = 0, count = sizeof HANDS / sizeof *HANDS;
    /* 60 steps a second. Each event keeps its own moment, wherever the steps lie. */
    for (int step = 1; step <= 90; step++) {
        uint64_t now = (uint64_t)step * 1000000 / 60;
        for (; next < count && HANDS[next].at <= now; next++) {
            tl_event event = { .at = HANDS[next].at, .kind = TL_EVENT_KIND_LEVEL, .x = HANDS[next].down,
                               .control = tl_control(TEXT(HANDS[next].key)) };
            if (tl_feed(seat, &event) == TL_FED_FULL) fprintf(stderr, "the queue is full\n");
        }
        tl_advance(seat, now);

        tl_stick_reading walk;
        if (tl_stick(seat, NULL, steer, &walk)) x += walk.x * 3.4 / 60;
        tl_happening pull;
        if (tl_happenings(seat, NULL, hop, TL_WHAT_PULLED, &pull, 1) > 0) {
            fall = 4.9;
            printf("hop at %6.3f s, kept for %llu ms, x = %.2f m\n", (double)pull.at / 1e6,
                   (unsigned long long)pull.kept_for / 1000, x);
        }
        y += fall / 60;
        fall -= 19.6 / 60;
        if (y < 0) y = fall = 0;
        tl_tell(seat, grounded, y == 0, TL_NOW);
    }
    printf("walked %.2f m\n", x);
    tl_seat_free(seat);
    return 0;
}
