/*
 * Tidy Lever for C: raw input in, character actions out.
 *
 * Times are microseconds of the game's clock. Texts come in as a pointer and a length in bytes, UTF-8, and need no zero at their
 * end; texts go out into a buffer of yours, cut where it is full, always with a zero at the end, and the full length of the text is
 * returned. Arrays work the same way: what fits is written, and how many there are is returned. A buffer may be null if its
 * room is 0.
 *
 * Ownership: what a function named `..._new`, `..._build` or `..._clone` returns is yours; give it back to the `..._free` of its
 * type, once. Freeing null does nothing. A linkage may be freed while seats made from it live on. Everything else belongs to
 * whoever passed it in, and is not kept.
 *
 * Threads: a linkage may be used by several threads at once. A seat, with its bookmarks and saved states, belongs to one thread
 * at a time; two seats may be played by two threads.
 *
 * Bookmarks: where a question takes a bookmark, null asks about the last tl_advance. With a bookmark it asks about what lies between
 * the last two calls of tl_read, so that readers at any rate get everything exactly once.
 *
 * Mistakes: invalid arguments (a null pointer, a number outside its enum, a handle or control that names nothing) return 0, null,
 * NaN or false and do nothing else. Every other pointer must be valid: it points to what its type says and was not freed. No call
 * aborts the program or throws.
 */

#ifndef TIDY_LEVER_H
#define TIDY_LEVER_H

/* Written by `REWRITE=1 cargo test -p tidy-lever-c --test header`; don't edit it. */

#include <stdarg.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <stdlib.h>

// The version of this interface: it grows when a function, a struct or a number of this header changes in a way that programs
// notice which were compiled before.
#define TL_ABI 2

// For `at`: the last played moment plus 1 microsecond, before the events that follow.
#define TL_NOW UINT64_MAX

// For `what` of `tl_happenings`: every `tl_what`.
#define TL_ALL 255

// What an event says.
typedef enum tl_event_kind {
  // A button, a trigger or a wheel stands at `x`, or was turned by `x` notches.
  TL_EVENT_KIND_LEVEL = 0,
  // A stick stands at `x`, `y`, up and right positive; a mouse moved by counts, or stands at a place of the view.
  TL_EVENT_KIND_PAIR = 1,
  // A finger is at `x`, `y`, 0 to 1 from the view's top left.
  TL_EVENT_KIND_TOUCH = 2,
  // The device was plugged in (`x` is 1) or unplugged (0).
  TL_EVENT_KIND_PLUGGED = 3,
  // A button, a trigger or a stick stands at `x`, `y`, as its device said when it was asked for its state, because reports get
  // lost. Where that is news, what was held goes up with `TL_CAUSE_RESYNCED`, what is down needs a fresh press, and nothing pulls.
  TL_EVENT_KIND_STANDS = 4,
} tl_event_kind;

// What a finger did.
typedef enum tl_touch_phase {
  // It came down.
  TL_TOUCH_PHASE_DOWN = 0,
  // It moved.
  TL_TOUCH_PHASE_MOVE = 1,
  // It was lifted.
  TL_TOUCH_PHASE_UP = 2,
  // The system took it away.
  TL_TOUCH_PHASE_CANCEL = 3,
} tl_touch_phase;

// What a name stands for, for `tl_find`.
typedef enum tl_noun {
  // An action of kind `button`, or a direction of a stick or an axis (`steer.up`).
  TL_NOUN_BUTTON = 1,
  // An action of kind `axis`.
  TL_NOUN_AXIS = 2,
  // An action of kind `stick`.
  TL_NOUN_STICK = 3,
  // An action of kind `sweep`.
  TL_NOUN_SWEEP = 4,
  // An action of kind `pointer`.
  TL_NOUN_POINTER = 5,
  // An action of kind `gauge`.
  TL_NOUN_GAUGE = 6,
  // A fact.
  TL_NOUN_FACT = 7,
  // A mode.
  TL_NOUN_MODE = 8,
} tl_noun;

// What happened.
typedef enum tl_what {
  // The action went off.
  TL_WHAT_PULLED = 0,
  // What was on is off; `cause` says why.
  TL_WHAT_ENDED = 1,
  // A mark of a pull came.
  TL_WHAT_MARK = 2,
  // A press.
  TL_WHAT_PRESSED = 3,
  // A release; `cause` says why.
  TL_WHAT_RELEASED = 4,
} tl_what;

// Why something ended.
typedef enum tl_cause {
  // The control was released.
  TL_CAUSE_LET_GO = 0,
  // A mode covered the action.
  TL_CAUSE_COVERED = 1,
  // The window lost its focus.
  TL_CAUSE_FOCUS_LOST = 2,
  // The device was unplugged.
  TL_CAUSE_UNPLUGGED = 3,
  // Another action took the press.
  TL_CAUSE_OUTRANKED = 4,
  // A toggle was pressed again.
  TL_CAUSE_TOGGLED = 5,
  // The game set it.
  TL_CAUSE_SET = 6,
  // A touch was cancelled.
  TL_CAUSE_CANCELLED = 7,
  // The seat was linked to a changed profile that has no place for it.
  TL_CAUSE_RELINKED = 8,
  // The device, asked for its state, said that it is up: a report was lost.
  TL_CAUSE_RESYNCED = 9,
  // Something that this header doesn't know yet.
  TL_CAUSE_OTHER = 255,
} tl_cause;

// What to do about another action that has a control already, for `tl_remap_bind`.
typedef enum tl_clash {
  // Change nothing.
  TL_CLASH_REFUSE = 0,
  // Give the other action what this one had.
  TL_CLASH_SWAP = 1,
  // Let both have it.
  TL_CLASH_SHARE = 2,
} tl_clash;

// An eighth of the circle, counter-clockwise from the right.
typedef enum tl_direction {
  // Right.
  TL_DIRECTION_RIGHT = 0,
  // Up and right.
  TL_DIRECTION_UP_RIGHT = 1,
  // Up.
  TL_DIRECTION_UP = 2,
  // Up and left.
  TL_DIRECTION_UP_LEFT = 3,
  // Left.
  TL_DIRECTION_LEFT = 4,
  // Down and left.
  TL_DIRECTION_DOWN_LEFT = 5,
  // Down.
  TL_DIRECTION_DOWN = 6,
  // Down and right.
  TL_DIRECTION_DOWN_RIGHT = 7,
  // At rest.
  TL_DIRECTION_NONE = 255,
} tl_direction;

// What became of an event.
typedef enum tl_fed {
  // It was taken.
  TL_FED_TAKEN = 0,
  // The queue is full: advance, then feed it again.
  TL_FED_FULL = 1,
  // A level that is not a finite number; drop it.
  TL_FED_NOT_FINITE = 2,
  // One level for a control with two, or the other way round.
  TL_FED_WRONG_SORT = 3,
  // There is no room for one more device.
  TL_FED_TOO_MANY_DEVICES = 4,
  // There is no such control, device, phase or kind of event, or a pointer is null.
  TL_FED_NO_SUCH = 5,
} tl_fed;

// What became of something told.
typedef enum tl_told {
  // It was taken.
  TL_TOLD_TAKEN = 0,
  // The queue is full: advance, then tell it again.
  TL_TOLD_FULL = 1,
  // The handle names nothing here, or something else; or a pointer is null.
  TL_TOLD_NO_SUCH = 2,
  // The action is not a toggle.
  TL_TOLD_NO_TOGGLE = 3,
  // The fact can't be that, or the view has no size.
  TL_TOLD_NO_SUCH_VALUE = 4,
} tl_told;

// Which devices belong together.
typedef enum tl_family {
  // Keyboards.
  TL_FAMILY_KEYS = 0,
  // Mice.
  TL_FAMILY_MOUSE = 1,
  // Gamepads.
  TL_FAMILY_PAD = 2,
  // Touch screens.
  TL_FAMILY_TOUCH = 3,
  // None was used yet.
  TL_FAMILY_NONE = 255,
} tl_family;

// The shape of a patch of the touch panel.
typedef enum tl_patch_kind {
  // Four arms, and the diagonals between them.
  TL_PATCH_KIND_CROSS = 0,
  // A stick, fixed or floating.
  TL_PATCH_KIND_STICK = 1,
  // A button.
  TL_PATCH_KIND_BUTTON = 2,
  // An area of the screen.
  TL_PATCH_KIND_ZONE = 3,
} tl_patch_kind;

// A reader's place: it gets everything exactly once, at any rate of reading. Where a function takes a bookmark, null asks about
// the last `tl_advance`.
typedef struct tl_bookmark tl_bookmark;

// A profile, checked and compiled, with a player's file over it.
typedef struct tl_linkage tl_linkage;

// The state of a seat, for rollback.
typedef struct tl_saved tl_saved;

// One player's live state.
typedef struct tl_seat tl_seat;

// How much a seat has room for.
typedef struct tl_room {
  // Events and tellings that wait; 0 is the default, 1,024.
  uint32_t waiting;
  // Happenings that are kept; 0 is the default, 256.
  uint32_t history;
  // Devices at once; 0 is the default, 8.
  uint32_t devices;
} tl_room;

// What was counted since the seat was made.
typedef struct tl_counts {
  // Fed or told for a moment already played.
  uint64_t late;
  // Refused: not a finite number, or the wrong sort of level.
  uint64_t refused;
  // Cut to the range of its control.
  uint64_t clamped;
  // Of a control that no action hears.
  uint64_t unheard;
  // No change when it was played.
  uint64_t repeats;
  // Handed back because something was full.
  uint64_t handed_back;
  // Mouse moves that were added to the next one because the queue was full.
  uint64_t merged;
  // Moved on because it was its control's second change in one moment.
  uint64_t moved_on;
  // Calls of `tl_advance` into the past.
  uint64_t rewinds;
  // Tellings with a handle that names nothing in this seat's profile.
  uint64_t foreign;
} tl_counts;

// What one device said at one moment.
typedef struct tl_event {
  // When, in microseconds of the game's clock.
  uint64_t at;
  // Which finger, for a touch.
  uint64_t finger;
  // A level; or right, or across the view from its left.
  float x;
  // Up; or down the view from its top.
  float y;
  // Which control, from `tl_control`; of no matter for a touch and a plug.
  uint16_t control;
  // Which device, 0 to 63. Give each a number of its own.
  uint8_t device;
  // A `tl_event_kind`.
  uint8_t kind;
  // A `tl_touch_phase`, for a touch.
  uint8_t phase;
} tl_event;

// What a button did, and its state now. Every action has this.
typedef struct tl_button_reading {
  // For how long it has been held, in microseconds; 0 if it is up.
  uint64_t held_for;
  // For how long it was held the last time.
  uint64_t last_held_for;
  // For how long it has been on.
  uint64_t on_for;
  // How often it was pressed.
  uint32_t presses;
  // How often it was released.
  uint32_t releases;
  // How often it pulled.
  uint32_t pulls;
  // Whether it is down.
  bool is_down;
  // Whether what it pulled is still on.
  bool is_on;
  // Whether it was pressed.
  bool went_down;
  // Whether it was released.
  bool went_up;
  // Whether it pulled.
  bool pulled;
} tl_button_reading;

// How an axis stands.
typedef struct tl_axis_reading {
  // Its value, in its own range.
  float value;
  // From −1 to 1, whatever its range is.
  float level;
} tl_axis_reading;

// How a stick stands.
typedef struct tl_stick_reading {
  // Since when it points there.
  uint64_t direction_since;
  // How long ago its last direction ended, in microseconds; 0 while it is held.
  uint64_t last_age;
  // Right, −1 to 1.
  float x;
  // Up, −1 to 1.
  float y;
  // How far it is pushed, 0 to 1.
  float size;
  // Its angle in degrees, counter-clockwise from the right; NaN at rest.
  float degrees;
  // How far it is pushed forward, the way that the fact `facing` says; back is negative.
  float forward;
  // Its `tl_direction`; `TL_DIRECTION_NONE` at rest.
  uint8_t direction;
  // The direction that is held or was held last; `TL_DIRECTION_NONE` before the first.
  uint8_t last_direction;
  // Whether it points the way that the fact `facing` says.
  bool is_forward;
  // Whether it points the other way.
  bool is_back;
} tl_stick_reading;

// How far a sweep turned.
typedef struct tl_sweep_reading {
  // Degrees to the right.
  double across;
  // Degrees up.
  double up;
} tl_sweep_reading;

// How a gauge stands.
typedef struct tl_gauge_reading {
  // Its value.
  float value;
  // How full it is, 0 to 1.
  float filled;
} tl_gauge_reading;

// Where a pointer is.
typedef struct tl_pointer_reading {
  // Pixels from the view's left.
  float x;
  // Pixels from its top.
  float y;
  // Where it was pressed, in pixels, while it is held; else NaN.
  float pressed_x;
  // The same, downwards.
  float pressed_y;
  // Pixels from where it was pressed, while it drags.
  float dragged_x;
  // The same, downwards.
  float dragged_y;
  // Whether it was anywhere yet.
  bool has_place;
  // Whether it drags.
  bool is_dragging;
  // Whether it was pressed and released in one place.
  bool clicked;
} tl_pointer_reading;

// Something that happened.
typedef struct tl_happening {
  // When, to the microsecond.
  uint64_t at;
  // Of a pull, when the press came that began it.
  uint64_t since;
  // Of a pull, how long it was kept for its gate, in microseconds.
  uint64_t kept_for;
  // Whose it is: a handle, as `tl_find` gives it.
  uint64_t action;
  // Of a pull that took another action's pull back on the same press, that action's handle; else 0.
  uint64_t over;
  // Of a pull that aims, how long before it the stick's last direction ended, in microseconds; 0 while it is held.
  uint64_t aim_age;
  // Of a pull with an amount, how much; else NaN.
  float amount;
  // Of a pull that aims, where its stick pointed: right; NaN at rest, or without an aim.
  float aim_x;
  // The same, up.
  float aim_y;
  // A `tl_what`.
  uint8_t what;
  // Of an end or a release, its `tl_cause`.
  uint8_t cause;
  // Of a pull, its stage, from 1; 0 if it has none.
  uint8_t stage;
  // Of a mark, its number among the action's marks, from 0; `tl_mark_name` names it.
  uint8_t mark;
  // Of a pull that aims, the `tl_direction` that was held then or had been held last.
  uint8_t aim_direction;
  // Of a pull, whether the fact `facing` was `left`.
  bool faces_left;
} tl_happening;

// A patch of the touch panel: where it lies, and what it does now. Places are in pixels from the view's top left.
typedef struct tl_patch {
  // Its middle; of a floating stick, where the thumb went down.
  float middle_x;
  // The same, downwards.
  float middle_y;
  // Half its width.
  float half_x;
  // Half its height.
  float half_y;
  // What is lit: right, −1 to 1; of a held button 1.
  float lit_x;
  // The same, upwards.
  float lit_y;
  // Where the thumb is, while one holds it.
  float thumb_x;
  // The same, downwards.
  float thumb_y;
  // A `tl_patch_kind`.
  uint8_t kind;
  // Whether any action uses it now; else it need not be drawn.
  bool is_heard;
  // Whether a finger holds it.
  bool is_held;
} tl_patch;

#ifdef __cplusplus
extern "C" {
#endif // __cplusplus

// The `TL_ABI` of the library that is linked or loaded: compare it with the header's own.
uint32_t tl_abi(void);

// Builds a profile from its text (TOML), with a player's file over it (`remap`; length 0 is none). Null, and all faults with
// their places in `fault`, if it is none. Else `fault` holds what of the player's file has no effect here, a line each.
struct tl_linkage *tl_linkage_build(const char *profile,
                                    size_t profile_length,
                                    const char *remap,
                                    size_t remap_length,
                                    char *fault,
                                    size_t room);

// Frees a linkage; seats made from it live on.
void tl_linkage_free(struct tl_linkage *linkage);

// Looks a name up: its handle, a number that is good in every profile that has the name. Handles are below 2^53, so a double holds
// them exactly, as in Lua and JavaScript. Returns 0, and what is wrong with the nearest
// right name in `fault`, if the profile has no such `tl_noun`.
uint64_t tl_find(const struct tl_linkage *linkage,
                 uint8_t noun,
                 const char *name,
                 size_t length,
                 char *fault,
                 size_t room);

// A control by its full name, `keys:Space` or `pad:left-stick`, for events; 0 if there is none. Good for every linkage.
uint16_t tl_control(const char *name, size_t length);

// The full name of a control, as `tl_control` takes it. Returns its length; 0 if the number names no control.
size_t tl_control_name(uint16_t control, char *to, size_t room);

// What to press for an action on a `tl_family`, as players read it: `space`, `south button`. Its length; 0 if nothing is bound.
size_t tl_prompt(const struct tl_linkage *linkage,
                 const char *action,
                 size_t length,
                 uint8_t family,
                 char *to,
                 size_t room);

// A seat that begins at a moment, at rest. Null if `linkage` is null.
struct tl_seat *tl_seat_new(const struct tl_linkage *linkage, uint64_t at);

// A seat with another room. Null if `linkage` is null, the room is more than a seat can have (16,777,216 events and happenings,
// 64 devices), or there is not enough memory for it.
struct tl_seat *tl_seat_new_with(const struct tl_linkage *linkage,
                                 uint64_t at,
                                 struct tl_room room);

// A copy, as it is now. Null if `seat` is null, or there is not enough memory.
struct tl_seat *tl_seat_clone(const struct tl_seat *seat);

// Frees a seat.
void tl_seat_free(struct tl_seat *seat);

// Plays everything up to and including a moment.
void tl_advance(struct tl_seat *seat, uint64_t to);

// Passes a gap that the game did not play (a breakpoint, a sleep): what lies in it is taken over as it ends up, and nothing
// pulls.
void tl_skip(struct tl_seat *seat,
             uint64_t to);

// Call this once per pass of the game's loop, with the time now, after what arrived was fed and before `tl_advance`. If the last
// call was more than 250 ms ago, the loop was interrupted (a breakpoint, a window that was dragged, a machine that slept): the seat
// skips up to `now`, as with `tl_skip`, so that keys which arrived together meanwhile are not taken for a double tap. Returns the
// length of the gap in microseconds, 0 if there was none.
uint64_t tl_gap(struct tl_seat *seat,
                uint64_t now);

// The last moment that was played.
uint64_t tl_played(const struct tl_seat *seat);

// Goes over to another linkage, by names: a changed profile, or another player's file. What is held stays held. `bookmarks` are
// readers' bookmarks that go over with the seat; others start again. Returns whether it did; `false` if a pointer is null, or a
// bookmark is given twice.
bool tl_relink(struct tl_seat *seat,
               const struct tl_linkage *linkage,
               struct tl_bookmark *const *bookmarks,
               size_t count);

// A hash of everything that decides what happens next: equal states have equal hashes, on every machine.
uint64_t tl_state_hash(const struct tl_seat *seat);

// The `tl_family` that was used last.
uint8_t tl_seat_family(const struct tl_seat *seat);

// What was counted.
struct tl_counts tl_stats(const struct tl_seat *seat);

// Takes an event; it plays in the `tl_advance` that reaches its moment. A `tl_fed`.
uint8_t tl_feed(struct tl_seat *seat, const struct tl_event *event);

// Takes events in order, up to the first that is not taken; how many were taken.
size_t tl_feed_all(struct tl_seat *seat, const struct tl_event *events, size_t count);

// Sets a fact that is true or false, at a moment or `TL_NOW`. A `tl_told`.
uint8_t tl_tell(struct tl_seat *seat, uint64_t fact, bool value, uint64_t at);

// Sets a fact that is one of some words.
uint8_t tl_tell_word(struct tl_seat *seat, uint64_t fact, const char *word, size_t length, uint64_t at);

// Switches a mode.
uint8_t tl_set_mode(struct tl_seat *seat, uint64_t mode, bool on, uint64_t at);

// Sets a toggle to what the game knows; nothing pulls.
uint8_t tl_set(struct tl_seat *seat, uint64_t toggle, bool on, uint64_t at);

// Undoes the bookkeeping of an action's last pull, which the game refused.
uint8_t tl_give_back(struct tl_seat *seat, uint64_t action, uint64_t at);

// The game's window has the focus, or lost it: what was held goes up, and nothing pulls.
uint8_t tl_focus(struct tl_seat *seat, bool focused, uint64_t at);

// Tells what a pad is called: what a player's file sets for pads of that name counts for it.
uint8_t tl_name_device(struct tl_seat *seat, uint8_t device, const char *name, size_t length, uint64_t at);

// Tells the view's size in pixels, for pointers and the touch panel.
uint8_t tl_set_view(struct tl_seat *seat, uint32_t width, uint32_t height, uint64_t at);

// Shows the touch panel, or hides it.
uint8_t tl_show_panel(struct tl_seat *seat, bool shown, uint64_t at);

// A new reader's place, at what is played now; null of null.
struct tl_bookmark *tl_bookmark_new(const struct tl_seat *seat);

// Frees it.
void tl_bookmark_free(struct tl_bookmark *bookmark);

// Moves a bookmark to what is played now: questions with it are about what lies between. Ask them before the seat advances.
// `false` if it began again here: it is of another seat, the seat was relinked, or went back behind it.
bool tl_read(const struct tl_seat *seat,
             struct tl_bookmark *bookmark);

// What a button, or any other action, did. `false` if there is no such action.
bool tl_button(const struct tl_seat *seat,
               const struct tl_bookmark *bookmark,
               uint64_t action,
               struct tl_button_reading *to);

// How an axis stands. `false` if there is no such axis.
bool tl_axis(const struct tl_seat *seat,
             const struct tl_bookmark *bookmark,
             uint64_t action,
             struct tl_axis_reading *to);

// How a stick stands. `false` if there is no such stick.
bool tl_stick(const struct tl_seat *seat,
              const struct tl_bookmark *bookmark,
              uint64_t action,
              struct tl_stick_reading *to);

// How far a sweep turned. `false` if there is no such sweep.
bool tl_sweep(const struct tl_seat *seat,
              const struct tl_bookmark *bookmark,
              uint64_t action,
              struct tl_sweep_reading *to);

// How a gauge stands. `false` if there is no such gauge.
bool tl_gauge(const struct tl_seat *seat,
              const struct tl_bookmark *bookmark,
              uint64_t action,
              struct tl_gauge_reading *to);

// Where a pointer is. `false` if there is no such pointer.
bool tl_pointer(const struct tl_seat *seat,
                const struct tl_bookmark *bookmark,
                uint64_t action,
                struct tl_pointer_reading *to);

// Writes what happened, in order: of one action, or of all actions (0); one `tl_what`, or `TL_ALL`. Returns how much there is.
size_t tl_happenings(const struct tl_seat *seat,
                     const struct tl_bookmark *bookmark,
                     uint64_t action,
                     uint8_t what,
                     struct tl_happening *to,
                     size_t room);

// How much happened that the history has no room for any more: counted in `tl_button`, but not among `tl_happenings`. A seat
// with a larger `history` keeps more.
uint64_t tl_lost(const struct tl_seat *seat,
                 const struct tl_bookmark *bookmark);

// The name of an action's mark, by its number; its length, 0 if it has no such mark.
size_t tl_mark_name(const struct tl_seat *seat, uint64_t action, uint8_t mark, char *to, size_t room);

// Writes what happened as lines of JSON, as `tidy-lever play --json` prints them; presses and releases, too, if `all`. The
// length of all lines.
size_t tl_lines(const struct tl_seat *seat,
                const struct tl_bookmark *bookmark,
                bool all,
                char *to,
                size_t room);

// The name of a handle in a seat's profile; its length, 0 if it has none there.
size_t tl_name(const struct tl_seat *seat, uint64_t handle, char *to, size_t room);

// Whether a fact is true.
bool tl_is(const struct tl_seat *seat, uint64_t fact);

// What a fact is: `true`, `false` or its word; its length, 0 if there is no such fact.
size_t tl_fact(const struct tl_seat *seat, uint64_t fact, char *to, size_t room);

// Whether a mode is on.
bool tl_is_mode_on(const struct tl_seat *seat, uint64_t mode);

// Saves a seat, and readers' bookmarks with it. Null if `seat` or a bookmark is null, a bookmark is given twice, or there is not
// enough memory.
struct tl_saved *tl_saved_new(const struct tl_seat *seat,
                              struct tl_bookmark *const *bookmarks,
                              size_t count);

// Frees it.
void tl_saved_free(struct tl_saved *saved);

// Saves a seat and as many bookmarks again into what was saved before.
bool tl_save_into(const struct tl_seat *seat,
                  struct tl_saved *saved,
                  struct tl_bookmark *const *bookmarks,
                  size_t count);

// Puts a seat back to what was saved of it, or of another one on the same linkage, with the bookmarks that were saved, in the same
// order: their readers see again what is played again. Returns `false`, and changes nothing, if it was saved on another profile,
// with another player's file, or with another number of bookmarks. Bookmarks that are not given start again if their future is
// rolled back.
bool tl_restore(struct tl_seat *seat,
                const struct tl_saved *saved,
                struct tl_bookmark *const *bookmarks,
                size_t count);

// Writes the state of a seat and readers' bookmarks as bytes, if all of them fit; returns how many there are. They are the same on
// every machine. With a `room` of 0 it only counts them, which is cheap.
size_t tl_save_bytes(const struct tl_seat *seat,
                     struct tl_bookmark *const *bookmarks,
                     size_t count,
                     uint8_t *to,
                     size_t room);

// Puts a seat back to what bytes say, with as many bookmarks as were written, in the same order. Returns `false`, and changes
// nothing, if the bytes were cut or changed, are of another linkage, or have another number of bookmarks.
bool tl_restore_bytes(struct tl_seat *seat,
                      const uint8_t *bytes,
                      size_t length,
                      struct tl_bookmark *const *bookmarks,
                      size_t count);

// Binds controls, and writes the player's file that comes of it to `to`; its length, which is more than `room` if it does not
// fit. 0, and why in `fault`, if it is refused.
//
// `remap` is the player's file before (length 0 is none), `target` what is bound (`hop.keys`, `steer.keys.up`), `controls` the
// names of its controls with commas between (`KeyJ,KeyH`; length 0 unbinds), `clash` a `tl_clash`. Build a linkage with the
// result, and relink the seat.
size_t tl_remap_bind(const struct tl_linkage *linkage,
                     const char *remap,
                     size_t remap_length,
                     const char *target,
                     size_t target_length,
                     const char *controls,
                     size_t controls_length,
                     uint8_t clash,
                     char *to,
                     size_t room,
                     char *fault,
                     size_t fault_room);

// Writes the patches for a view of this size (that of `tl_set_view`), in the order of the profile; how many there are.
size_t tl_patches(const struct tl_seat *seat, uint32_t width, uint32_t height, struct tl_patch *to, size_t room);

// The name of the patch with this number, from 0; its length, 0 if there is none.
size_t tl_patch_name(const struct tl_seat *seat, size_t number, char *to, size_t room);

#ifdef __cplusplus
}  // extern "C"
#endif  // __cplusplus

#endif  /* TIDY_LEVER_H */
