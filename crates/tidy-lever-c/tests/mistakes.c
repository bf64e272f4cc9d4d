/* Everything that a program can do wrong: null, garbage, foreign handles, full queues, small buffers. */
#include <math.h>
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <stddef.h>
#ifdef __linux__
#include <sys/resource.h>
#endif
#include "tidy_lever.h"

static int faults = 0;
#define HOLDS(what) do { if (!(what)) { printf("line %d: not so: %s\n", __LINE__, #what); faults++; } } while (0)
#define TEXT(text) text, strlen(text)

static const char *PROFILE =
    "tidy-lever = 1\n[modes]\nmenu = {}\n[facts]\ngrounded = true\nstate = [\"idle\", \"walk\"]\n"
    "[action.hop]\nkind = \"button\"\nkeys = \"Space\"\npad = \"south\"\ncooldown = \"50ms\"\n"
    "[action.lamp]\nkind = \"button\"\nkeys = \"KeyL\"\ncue = \"toggle\"\n"
    "[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\npad_shape = { dead = 0.15 }\ntouch = \"thumb\"\n"
    "[action.toss]\nkind = \"button\"\nkeys = \"KeyT\"\naim = \"steer\"\nmarks = { land = \"2ms\" }\n[action.dive]\nkind = \"axis\"\nkeys = { minus = \"KeyC\", plus = \"KeyX\" }\n"
    "[action.look]\nkind = \"sweep\"\nmouse = \"move\"\n[action.point]\nkind = \"pointer\"\nmouse = [\"place\", \"left\"]\n"
    "[action.paddle]\nkind = \"gauge\"\nkeys = \"KeyK\"\ngauge = { push = \"+1\", ceiling = 3 }\n"
    "[panel.thumb]\nkind = \"stick\"\nfrom = \"bottom-left\"\nat = [0.3, 0.3]\nsize = 0.2\n";

static uint8_t level(tl_seat *seat, uint64_t at, uint8_t device, const char *name, float x) {
    tl_event event = { .at = at, .device = device, .kind = TL_EVENT_KIND_LEVEL, .control = tl_control(TEXT(name)), .x = x };
    return tl_feed(seat, &event);
}

static uint64_t find(const tl_linkage *linkage, uint8_t noun, const char *name) {
    return tl_find(linkage, noun, TEXT(name), NULL, 0);
}

/* A thread with a seat of its own on a linkage that both share. */
static void *plays(void *shared) {
    const tl_linkage *linkage = shared;
    tl_seat *seat = tl_seat_new(linkage, 0);
    uint64_t hop = find(linkage, TL_NOUN_BUTTON, "hop");
    size_t pulls = 0;
    for (uint64_t n = 1; n <= 2000; n++) {
        level(seat, n * 100000 - 50000, 1, "pad:south", 1);
        level(seat, n * 100000 - 20000, 1, "pad:south", 0);
        tl_advance(seat, n * 100000);
        pulls += tl_happenings(seat, NULL, hop, TL_WHAT_PULLED, NULL, 0);
    }
    uint64_t hash = tl_state_hash(seat);
    tl_seat_free(seat);
    return (void *)(uintptr_t)(pulls == 2000 ? hash : 0);
}

/* The sizes and places that programs were compiled with: a change here raises TL_ABI. */
_Static_assert(TL_ABI == 2, "TL_ABI");
#define PLACE(type, field, at) _Static_assert(offsetof(type, field) == at, #type "." #field)
_Static_assert(sizeof(tl_event) == 32, "tl_event");
PLACE(tl_event, at, 0);
PLACE(tl_event, finger, 8);
PLACE(tl_event, x, 16);
PLACE(tl_event, control, 24);
PLACE(tl_event, device, 26);
PLACE(tl_event, kind, 27);
PLACE(tl_event, phase, 28);
_Static_assert(sizeof(tl_room) == 12, "tl_room");
_Static_assert(sizeof(tl_counts) == 80, "tl_counts");
PLACE(tl_counts, merged, 48);
_Static_assert(sizeof(tl_happening) == 72, "tl_happening");
PLACE(tl_happening, action, 24);
PLACE(tl_happening, what, 60);
_Static_assert(sizeof(tl_button_reading) == 48, "tl_button_reading");
_Static_assert(sizeof(tl_axis_reading) == 8, "tl_axis_reading");
_Static_assert(sizeof(tl_stick_reading) == 40, "tl_stick_reading");
_Static_assert(sizeof(tl_sweep_reading) == 16, "tl_sweep_reading");
_Static_assert(sizeof(tl_gauge_reading) == 8, "tl_gauge_reading");
_Static_assert(sizeof(tl_pointer_reading) == 28, "tl_pointer_reading");
_Static_assert(sizeof(tl_patch) == 36, "tl_patch");

/* A loop that stalls: four edges come together afterwards. Without a gap they are a double tap. */
static void gaps(void) {
    tl_linkage *linkage = tl_linkage_build(TEXT("tidy-lever = 1\n[action.dash]\nkind = \"button\"\nkeys = \"KeyD\"\n"
        "cue = \"2 taps 240ms apart\"\n[devices]\nkeys = { debounce = \"0ms\" }\n"), NULL, 0, NULL, 0);
    uint64_t dash = find(linkage, TL_NOUN_BUTTON, "dash");
    for (int told = 0; told < 2; told++) {
        tl_seat *seat = tl_seat_new(linkage, 0);
        tl_button_reading button;
        HOLDS(tl_gap(seat, 16000) == 0);
        tl_advance(seat, 16000);
        for (int n = 0; n < 4; n++) HOLDS(level(seat, 900000, 0, "keys:KeyD", n % 2 == 0) == TL_FED_TAKEN);
        if (told) HOLDS(tl_gap(seat, 900000) == 884000);
        tl_advance(seat, 900020);
        HOLDS(tl_button(seat, NULL, dash, &button) && button.pulls == (told ? 0u : 1u) && !button.is_down);
        /* What comes after it counts as ever. */
        HOLDS(tl_gap(seat, 916000) == (told ? 0u : 900000u));
        if (!told) { tl_seat_free(seat); continue; }
        for (int n = 0; n < 4; n++) HOLDS(level(seat, 930000 + n * 50000, 0, "keys:KeyD", n % 2 == 0) == TL_FED_TAKEN);
        tl_advance(seat, 1200000);
        HOLDS(tl_button(seat, NULL, dash, &button) && button.pulls == 1);
        tl_seat_free(seat);
    }
    HOLDS(tl_gap(NULL, 5) == 0);
    tl_linkage_free(linkage);
}

/* Bookmarks that are saved with a seat read again what is played again. */
static void bookmarks(const tl_linkage *linkage) {
    uint64_t hop = find(linkage, TL_NOUN_BUTTON, "hop");
    tl_seat *seat = tl_seat_new(linkage, 0);
    tl_bookmark *reader = tl_bookmark_new(seat), *twice[] = { reader, reader }, *none[] = { NULL };
    tl_saved *saved = tl_saved_new(seat, &reader, 1);
    HOLDS(saved && !tl_saved_new(seat, twice, 2) && !tl_saved_new(seat, none, 1) && !tl_saved_new(seat, NULL, 1));
    size_t size = tl_save_bytes(seat, &reader, 1, NULL, 0);
    uint8_t *bytes = malloc(size);
    HOLDS(tl_save_bytes(seat, &reader, 1, bytes, size) == size && tl_save_bytes(seat, &reader, 1, bytes, size - 1) == size);
    for (int n = 0; n < 3; n++) {
        level(seat, 1000, 0, "keys:Space", 1);
        tl_advance(seat, 2000);
        HOLDS(tl_read(seat, reader) && tl_happenings(seat, reader, hop, TL_WHAT_PULLED, NULL, 0) == 1);
        HOLDS(tl_read(seat, reader) && tl_happenings(seat, reader, hop, TL_WHAT_PULLED, NULL, 0) == 0);
        HOLDS(!tl_restore(seat, saved, NULL, 0) && !tl_restore(seat, saved, twice, 2));
        HOLDS(n == 0 ? tl_restore(seat, saved, &reader, 1) : tl_restore_bytes(seat, bytes, size, &reader, 1));
        HOLDS(!tl_restore_bytes(seat, bytes, size, NULL, 0));
    }
    HOLDS(tl_save_into(seat, saved, &reader, 1) && !tl_save_into(seat, saved, twice, 2));
    HOLDS(!tl_relink(seat, linkage, twice, 2) && tl_relink(seat, linkage, &reader, 1) && tl_read(seat, reader));
    free(bytes);
    tl_saved_free(saved);
    tl_bookmark_free(reader);
    tl_seat_free(seat);
}

/* What a seat costs as bytes goes by what it holds, and a room that there is no memory for is refused. */
static void rooms(const tl_linkage *linkage) {
    tl_seat *small = tl_seat_new_with(linkage, 0, (tl_room){ 4, 4, 8 });
    tl_seat *large = tl_seat_new_with(linkage, 0, (tl_room){ 1 << 20, 1 << 20, 8 });
    size_t one = tl_save_bytes(small, NULL, 0, NULL, 0), two = tl_save_bytes(large, NULL, 0, NULL, 0);
    HOLDS(one > 100 && two < one + 16);
    tl_seat_free(small);
    tl_seat_free(large);
#ifdef __linux__
    struct rlimit before, limit;
    HOLDS(getrlimit(RLIMIT_AS, &before) == 0);
    limit = before;
    limit.rlim_cur = 600u << 20;
    if (setrlimit(RLIMIT_AS, &limit) == 0) {
        HOLDS(!tl_seat_new_with(linkage, 0, (tl_room){ 1 << 24, 1 << 24, 8 }));
        HOLDS(setrlimit(RLIMIT_AS, &before) == 0);
    }
#endif
}

int main(void) {
    char fault[512] = "", small[8];
    HOLDS(!tl_linkage_build(TEXT("tidy-lever = 1\n[action.hop]\nkind = \"buton\"\n"), NULL, 0, fault, sizeof fault));
    HOLDS(strstr(fault, "line 3") && strstr(fault, "button"));
    HOLDS(!tl_linkage_build(TEXT("tidy-lever = 1\n[action.hop]\nkind = \"buton\"\n"), NULL, 0, small, sizeof small));
    HOLDS(strlen(small) == 7);
    HOLDS(!tl_linkage_build(NULL, 5, NULL, 0, fault, sizeof fault) && strstr(fault, "null"));
    HOLDS(!tl_linkage_build(NULL, 0, NULL, 0, NULL, 0));
    HOLDS(!tl_linkage_build("\xff\xfe", 2, NULL, 0, NULL, 0) && !tl_linkage_build(TEXT(PROFILE), NULL, 9, NULL, 0));
    HOLDS(!tl_linkage_build(TEXT(PROFILE), TEXT("[action.hop\n"), fault, sizeof fault) && strstr(fault, "player's file"));
    tl_linkage *with_notes = tl_linkage_build(TEXT(PROFILE), TEXT("[action.swim]\nkeys = \"KeyJ\"\n"), fault, sizeof fault);
    HOLDS(with_notes && strstr(fault, "swim"));
    tl_linkage_free(with_notes);

    tl_linkage *linkage = tl_linkage_build(TEXT(PROFILE), NULL, 0, fault, sizeof fault);
    if (!linkage) { printf("%s\n", fault); return 1; }
    uint64_t hop = find(linkage, TL_NOUN_BUTTON, "hop"), lamp = find(linkage, TL_NOUN_BUTTON, "lamp");
    uint64_t steer = find(linkage, TL_NOUN_STICK, "steer"), dive = find(linkage, TL_NOUN_AXIS, "dive");
    uint64_t look = find(linkage, TL_NOUN_SWEEP, "look"), point = find(linkage, TL_NOUN_POINTER, "point");
    uint64_t paddle = find(linkage, TL_NOUN_GAUGE, "paddle"), grounded = find(linkage, TL_NOUN_FACT, "grounded");
    uint64_t state = find(linkage, TL_NOUN_FACT, "state"), menu = find(linkage, TL_NOUN_MODE, "menu");
    HOLDS(hop && lamp && steer && dive && look && point && paddle && grounded && state && menu);
    HOLDS(!tl_find(linkage, TL_NOUN_BUTTON, TEXT("hopp"), fault, sizeof fault) && strstr(fault, "did you mean `hop`"));
    HOLDS(!tl_find(linkage, TL_NOUN_STICK, TEXT("hop"), NULL, 0) && !tl_find(linkage, 77, TEXT("hop"), NULL, 0));
    HOLDS(!tl_find(NULL, TL_NOUN_BUTTON, TEXT("hop"), NULL, 0) && !tl_find(linkage, TL_NOUN_BUTTON, NULL, 3, NULL, 0));
    HOLDS(tl_abi() == TL_ABI);
    uint64_t handles[] = { hop, lamp, steer, dive, look, point, paddle, grounded, state, menu };
    for (size_t n = 0; n < sizeof handles / sizeof *handles; n++) HOLDS((uint64_t)(double)handles[n] == handles[n]);
    char control[32];
    HOLDS(tl_control_name(tl_control(TEXT("keys:Space")), control, sizeof control) == 10 && !strcmp(control, "keys:Space"));
    HOLDS(!tl_control_name(0, control, sizeof control) && !*control && tl_control_name(65535, NULL, 0) == 0);
    gaps();
    bookmarks(linkage);
    rooms(linkage);
    HOLDS(!tl_control(TEXT("keys:Spac")) && !tl_control(NULL, 3) && !tl_control("", 0));
    char text[256];
    HOLDS(tl_prompt(linkage, TEXT("hop"), TL_FAMILY_PAD, text, sizeof text) == strlen("south button") && !strcmp(text, "south button"));
    HOLDS(!tl_prompt(linkage, TEXT("hop"), 99, NULL, 0) && !tl_prompt(NULL, NULL, 0, 0, NULL, 0));

    HOLDS(!tl_seat_new(NULL, 0) && !tl_seat_clone(NULL));
    HOLDS(!tl_seat_new_with(linkage, 0, (tl_room){ UINT32_MAX, UINT32_MAX, UINT32_MAX }));
    tl_seat *seat = tl_seat_new_with(linkage, 0, (tl_room){ 16, 64, 4 });
    tl_bookmark *bookmark = tl_bookmark_new(seat);
    HOLDS(seat && bookmark && !tl_bookmark_new(NULL));

    /* Events. */
    HOLDS(level(seat, 3000, 0, "keys:Space", 1) == TL_FED_TAKEN);
    HOLDS(level(seat, 5000, 0, "keys:Spac", 1) == TL_FED_NO_SUCH);
    HOLDS(level(seat, 5000, 1, "pad:south", NAN) == TL_FED_NOT_FINITE);
    HOLDS(level(seat, 5000, 1, "pad:left-stick", 1) == TL_FED_WRONG_SORT);
    HOLDS(level(seat, 5000, 200, "pad:south", 1) == TL_FED_NO_SUCH);
    tl_event asked = { .at = 2000, .device = 7, .kind = TL_EVENT_KIND_STANDS, .control = tl_control(TEXT("pad:south")), .x = 1 };
    HOLDS(tl_feed(seat, &asked) == TL_FED_TAKEN);
    asked.control = tl_control(TEXT("mouse:move"));
    HOLDS(tl_feed(seat, &asked) == TL_FED_WRONG_SORT);
    for (int kind = 5; kind < 256; kind++) {
        tl_event event = { .kind = (uint8_t)kind, .control = tl_control(TEXT("keys:Space")) };
        HOLDS(tl_feed(seat, &event) == TL_FED_NO_SUCH);
    }
    for (unsigned control = 0; control <= UINT16_MAX; control++) {
        /* On a copy: any number is some control, or none. */
        tl_event event = { .at = 5000, .control = (uint16_t)control, .x = 1 };
        tl_seat *copy = control % 512 ? NULL : tl_seat_clone(seat);
        if (copy) tl_feed(copy, &event);
        tl_seat_free(copy);
        if (control > 600) HOLDS(tl_feed(seat, &event) == TL_FED_NO_SUCH);
    }
    tl_event touch = { .at = 6000, .device = 2, .kind = TL_EVENT_KIND_TOUCH, .finger = 7, .phase = 9, .x = 0.17f, .y = 0.7f };
    HOLDS(tl_feed(seat, &touch) == TL_FED_NO_SUCH);
    touch.phase = TL_TOUCH_PHASE_DOWN;
    HOLDS(tl_feed(seat, &touch) == TL_FED_TAKEN);
    HOLDS(tl_feed(NULL, &touch) == TL_FED_NO_SUCH && tl_feed(seat, NULL) == TL_FED_NO_SUCH && tl_feed_all(seat, NULL, 5) == 0);
    tl_event push[3] = { { .at = 7000, .device = 1, .kind = TL_EVENT_KIND_PAIR, .control = tl_control(TEXT("pad:left-stick")), .x = 1 },
                         { .at = 8000, .kind = TL_EVENT_KIND_LEVEL, .control = tl_control(TEXT("keys:KeyX")), .x = 1 },
                         { .at = 9000, .kind = 99 } };
    HOLDS(tl_feed_all(seat, push, 3) == 2 && tl_feed_all(NULL, push, 3) == 0);
    tl_advance(seat, 10000);
    HOLDS(tl_played(seat) == 10000 && tl_played(NULL) == 0 && tl_seat_family(NULL) == TL_FAMILY_NONE);

    tl_patch patches[2];
    HOLDS(tl_patches(seat, 1280, 720, patches, 2) == 1 && patches[0].is_held && patches[0].is_heard && patches[0].thumb_x > 1);

    /* Answers. */
    HOLDS(tl_read(seat, bookmark) && !tl_read(NULL, bookmark) && !tl_read(seat, NULL));
    tl_button_reading button;
    HOLDS(tl_button(seat, bookmark, hop, &button) && button.pulled && button.pulls == 1 && button.is_down && button.held_for == 7000);
    HOLDS(tl_button(seat, NULL, steer, &button) && button.is_down && tl_button(seat, NULL, hop, NULL));
    HOLDS(!tl_button(seat, NULL, grounded, &button) && !tl_button(NULL, NULL, hop, &button));
    tl_stick_reading stick;
    HOLDS(tl_stick(seat, NULL, steer, &stick) && stick.x == 1 && stick.direction == TL_DIRECTION_RIGHT && !tl_stick(seat, NULL, hop, &stick));
    tl_axis_reading axis;
    HOLDS(tl_axis(seat, NULL, dive, &axis) && axis.value == 1 && axis.level == 1);
    tl_sweep_reading sweep;
    tl_gauge_reading gauge;
    tl_pointer_reading pointer;
    HOLDS(tl_sweep(seat, bookmark, look, &sweep) && sweep.across == 0 && tl_gauge(seat, NULL, paddle, &gauge));
    HOLDS(tl_pointer(seat, NULL, point, &pointer) && !pointer.has_place);
    tl_happening all[8];
    HOLDS(tl_happenings(seat, bookmark, hop, TL_WHAT_PULLED, all, 8) == 1 && all[0].at == 3000 && all[0].action == hop && isnan(all[0].amount));
    HOLDS(tl_happenings(seat, bookmark, 0, TL_ALL, all, 1) > 1 && tl_happenings(seat, bookmark, 0, TL_ALL, NULL, 0) > 1);
    HOLDS(tl_happenings(NULL, NULL, 0, TL_ALL, all, 8) == 0);
    size_t length = tl_lines(seat, bookmark, false, text, sizeof text);
    HOLDS(length == strlen(text) && strstr(text, "{\"at\":3000,\"action\":\"hop\",\"what\":\"pulled\"}\n"));
    HOLDS(tl_lines(seat, bookmark, false, small, sizeof small) == length && strlen(small) == 7);
    HOLDS(tl_name(seat, steer, text, sizeof text) == 5 && !strcmp(text, "steer") && tl_name(seat, 12345, NULL, 0) == 0);
    uint64_t garbage[] = { 1, UINT64_MAX, hop ^ 1, (uint64_t)1 << 56, (uint64_t)7 << 56 | 3, (uint64_t)200 << 56 };
    for (size_t n = 0; n < sizeof garbage / sizeof *garbage; n++) {
        HOLDS(!tl_button(seat, NULL, garbage[n], &button) && !tl_is(seat, garbage[n]) && !tl_is_mode_on(seat, garbage[n]));
        HOLDS(tl_tell(seat, garbage[n], true, TL_NOW) == TL_TOLD_NO_SUCH && tl_set_mode(seat, garbage[n], true, TL_NOW) == TL_TOLD_NO_SUCH);
        HOLDS(tl_give_back(seat, garbage[n], TL_NOW) == TL_TOLD_NO_SUCH && tl_fact(seat, garbage[n], NULL, 0) == 0);
    }

    /* Tellings. */
    HOLDS(tl_tell(seat, grounded, false, TL_NOW) == TL_TOLD_TAKEN && tl_tell_word(seat, state, TEXT("walk"), 12000) == TL_TOLD_TAKEN);
    HOLDS(tl_tell_word(seat, state, TEXT("wlak"), TL_NOW) == TL_TOLD_NO_SUCH_VALUE && tl_tell_word(seat, state, NULL, 4, TL_NOW) == TL_TOLD_NO_SUCH);
    HOLDS(tl_set_mode(seat, menu, true, TL_NOW) == TL_TOLD_TAKEN && tl_set(seat, lamp, true, TL_NOW) == TL_TOLD_TAKEN);
    HOLDS(tl_set(seat, hop, true, TL_NOW) == TL_TOLD_NO_TOGGLE && tl_give_back(seat, hop, TL_NOW) == TL_TOLD_TAKEN);
    HOLDS(tl_set_view(seat, 0, 5, TL_NOW) == TL_TOLD_NO_SUCH_VALUE && tl_set_view(seat, 800, 600, TL_NOW) == TL_TOLD_TAKEN);
    HOLDS(tl_show_panel(seat, true, TL_NOW) == TL_TOLD_TAKEN && tl_focus(seat, true, TL_NOW) == TL_TOLD_TAKEN);
    HOLDS(tl_tell(NULL, grounded, true, TL_NOW) == TL_TOLD_NO_SUCH && tl_focus(NULL, true, 0) == TL_TOLD_NO_SUCH);
    tl_advance(seat, 20000);
    uint64_t toss = find(linkage, TL_NOUN_BUTTON, "toss");
    tl_seat *thrower = tl_seat_new(linkage, 0);
    tl_event tilt = { .at = 100, .device = 1, .kind = TL_EVENT_KIND_PAIR, .control = tl_control(TEXT("pad:left-stick")), .y = 1 };
    HOLDS(tl_name_device(thrower, 3, TEXT("Plain pad"), TL_NOW) == TL_TOLD_TAKEN && tl_name_device(thrower, 64, TEXT("Plain pad"), 0) == TL_TOLD_NO_SUCH);
    HOLDS(tl_name_device(thrower, 3, NULL, 9, TL_NOW) == TL_TOLD_NO_SUCH && tl_name_device(NULL, 3, TEXT("Plain pad"), 0) == TL_TOLD_NO_SUCH);
    HOLDS(tl_feed(thrower, &tilt) == TL_FED_TAKEN && level(thrower, 200, 0, "keys:KeyT", 1) == TL_FED_TAKEN);
    tl_advance(thrower, 90000);
    HOLDS(tl_happenings(thrower, NULL, toss, TL_WHAT_PULLED, all, 8) == 1 && all[0].aim_y == 1 && all[0].aim_direction == TL_DIRECTION_UP);
    HOLDS(all[0].over == 0 && !all[0].faces_left && all[0].aim_age == 0);
    HOLDS(tl_happenings(thrower, NULL, toss, TL_WHAT_MARK, all, 8) == 1 && all[0].at == 2200 && isnan(all[0].aim_x));
    HOLDS(tl_mark_name(thrower, toss, all[0].mark, text, sizeof text) == 4 && !strcmp(text, "land") && !tl_mark_name(thrower, toss, 9, NULL, 0));
    HOLDS(tl_stick(thrower, NULL, steer, &stick) && stick.degrees == 90 && stick.last_direction == TL_DIRECTION_UP && stick.last_age == 0);
    HOLDS(tl_lost(thrower, NULL) == 0 && tl_lost(NULL, NULL) == 0 && !tl_mark_name(NULL, toss, 0, NULL, 0));
    tl_seat_free(thrower);
    HOLDS(!tl_is(seat, grounded) && tl_is_mode_on(seat, menu) && tl_fact(seat, state, text, sizeof text) == 4 && !strcmp(text, "walk"));
    HOLDS(tl_button(seat, NULL, lamp, &button) && button.is_on && !button.pulled);
    uint8_t told = TL_TOLD_TAKEN;
    for (int n = 0; n < 100 && told == TL_TOLD_TAKEN; n++) told = tl_tell(seat, grounded, n % 2, 30000);
    HOLDS(told == TL_TOLD_FULL && level(seat, 40000, 0, "keys:KeyK", 1) == TL_FED_FULL);

    /* The panel. */
    /* The view's new size took the panel away from under the finger. */
    HOLDS(tl_patches(seat, 800, 600, patches, 2) == 1 && patches[0].kind == TL_PATCH_KIND_STICK && !patches[0].is_held && patches[0].half_x > 1);
    HOLDS(tl_patch_name(seat, 0, text, sizeof text) == 5 && !strcmp(text, "thumb") && !tl_patch_name(seat, 1, NULL, 0) && !tl_patches(NULL, 0, 0, NULL, 0));

    /* Saved and restored. */
    tl_saved *saved = tl_saved_new(seat, NULL, 0);
    uint64_t hash = tl_state_hash(seat);
    size_t size = tl_save_bytes(seat, NULL, 0, NULL, 0);
    uint8_t *bytes = malloc(size);
    HOLDS(saved && size > 100 && tl_save_bytes(seat, NULL, 0, bytes, size) == size);
    tl_advance(seat, 900000);
    HOLDS(tl_state_hash(seat) != hash && tl_restore(seat, saved, NULL, 0) && tl_state_hash(seat) == hash);
    HOLDS(tl_save_into(seat, saved, NULL, 0) && !tl_save_into(NULL, saved, NULL, 0) && !tl_restore(seat, NULL, NULL, 0) && !tl_saved_new(NULL, NULL, 0));
    tl_seat *other = tl_seat_new_with(linkage, 0, (tl_room){ 16, 64, 4 });
    HOLDS(tl_restore_bytes(other, bytes, size, NULL, 0) && tl_state_hash(other) == hash);
    HOLDS(!tl_restore_bytes(other, bytes, size - 1, NULL, 0) && !tl_restore_bytes(other, NULL, size, NULL, 0) && !tl_restore_bytes(NULL, bytes, size, NULL, 0));
    bytes[size / 2] ^= 4;
    HOLDS(!tl_restore_bytes(other, bytes, size, NULL, 0) && tl_state_hash(other) == hash);

    /* A player's file. */
    char file[256];
    size_t written = tl_remap_bind(linkage, NULL, 0, TEXT("hop.keys"), TEXT("KeyJ"), TL_CLASH_REFUSE, file, sizeof file, fault, sizeof fault);
    HOLDS(written == strlen(file) && strstr(file, "KeyJ"));
    HOLDS(!tl_remap_bind(linkage, NULL, 0, TEXT("hop.keys"), TEXT("KeyL"), TL_CLASH_REFUSE, file, 0, fault, sizeof fault) && strstr(fault, "lamp"));
    HOLDS(!tl_remap_bind(linkage, NULL, 0, TEXT("hopkeys"), TEXT("KeyJ"), 0, NULL, 0, NULL, 0) && !tl_remap_bind(NULL, NULL, 0, NULL, 0, NULL, 0, 0, NULL, 0, NULL, 0));
    HOLDS(!tl_remap_bind(linkage, NULL, 0, TEXT("hop.keys"), TEXT("KeyJ"), 9, NULL, 0, fault, sizeof fault) && strstr(fault, "tl_clash"));
    tl_linkage *bound = tl_linkage_build(TEXT(PROFILE), file, written, fault, sizeof fault);
    HOLDS(bound && tl_relink(seat, bound, NULL, 0) && !tl_relink(seat, NULL, NULL, 0) && !tl_relink(NULL, bound, NULL, 0));
    HOLDS(!tl_read(seat, bookmark) && tl_read(seat, bookmark));
    HOLDS(tl_set_mode(seat, menu, false, TL_NOW) != TL_TOLD_NO_SUCH);
    tl_advance(seat, 950000);
    level(seat, 960000, 0, "keys:KeyJ", 1);
    tl_advance(seat, 970000);
    HOLDS(tl_button(seat, NULL, hop, &button) && button.is_down);
    HOLDS(!tl_restore(seat, saved, NULL, 0));
    tl_skip(seat, 5000000);
    tl_skip(NULL, 1);
    tl_advance(NULL, 1);
    tl_advance(seat, 3);
    tl_counts counted = tl_stats(seat);
    HOLDS(counted.rewinds >= 1 && counted.refused >= 2 && counted.foreign > 0 && tl_stats(NULL).late == 0);
    tl_advance(seat, UINT64_MAX);

    /* Two threads, a seat each. */
    pthread_t threads[2];
    void *hashes[2];
    for (int n = 0; n < 2; n++) HOLDS(pthread_create(&threads[n], NULL, plays, linkage) == 0);
    for (int n = 0; n < 2; n++) HOLDS(pthread_join(threads[n], &hashes[n]) == 0);
    HOLDS(hashes[0] && hashes[0] == hashes[1]);

    free(bytes);
    tl_saved_free(saved);
    tl_saved_free(NULL);
    tl_bookmark_free(bookmark);
    tl_bookmark_free(NULL);
    tl_seat_free(seat);
    tl_seat_free(other);
    tl_seat_free(NULL);
    tl_linkage_free(linkage);
    tl_linkage_free(bound);
    tl_linkage_free(NULL);
    printf(faults ? "%d faults\n" : "all holds\n", faults);
    return faults != 0;
}
