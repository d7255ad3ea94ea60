// The codes of findings and what they mean: the one list of them.
#pragma once

/// Every code a finding can have: identifier, the code as printed, whether it keeps the machine from running, and,
/// where the finding itself does not say it, what it means (`mobrin check --explain CODE`).
#define MOBRIN_FINDINGS(X)                                                                                         \
  X(unreadable_file, "unreadable-file", true, "")                                                                  \
  X(bad_yaml, "bad-yaml", true, "")                                                                                \
  X(too_large, "too-large", true, "")                                                                              \
  X(wrong_version, "wrong-version", true, "")                                                                      \
  X(wrong_kind_of_file, "wrong-kind-of-file", true, "")                                                            \
  X(unknown_key, "unknown-key", true, "")                                                                          \
  X(duplicate_key, "duplicate-key", true, "")                                                                      \
  X(missing_key, "missing-key", true, "")                                                                          \
  X(wrong_type, "wrong-type", true, "")                                                                            \
  X(bad_value, "bad-value", true, "")                                                                              \
  X(bad_name, "bad-name", true, "")                                                                                \
  X(duplicate_name, "duplicate-name", true, "")                                                                    \
  X(unknown_name, "unknown-name", true, "")                                                                        \
  X(outside_folder, "outside-folder", true,                                                                        \
    "A name under `use:`, `sheet:`, `images:`, `animation:` or `art:` leads out of the folder of the file that was " \
    "asked for (`../`). A file from elsewhere could make a tool read anything that way. Move what it names into the " \
    "folder, ask for a file further up, write the whole path (`/home/...`), or give `--allow-outside`.")           \
  X(bad_expression, "bad-expression", true, "")                                                                    \
  X(wrong_operand, "wrong-operand", true, "")                                                                      \
  X(conflicting_keys, "conflicting-keys", true, "")                                                                \
  X(outside_clip, "outside-clip", true, "")                                                                        \
  X(meaningless_event, "meaningless-event", true, "")                                                              \
  X(unreachable_target, "unreachable-target", true, "")                                                            \
  X(lone_frame, "lone-frame", false,                                                                               \
    "`frames: 6` is one frame, number 6, where six were meant: `[0-5]`. `[6]` says that one is meant.")            \
  X(division_by_zero, "division-by-zero", false, "")                                                               \
  X(never_ends, "never-ends", false, "")                                                                           \
  X(missing_art, "missing-art", false, "")                                                                         \
  X(art_left_out, "art-left-out", false, "")                                                                       \
  X(unreadable_art, "unreadable-art", true, "")                                                                    \
  X(bad_grid, "bad-grid", true, "")                                                                                \
  X(number_twice, "number-twice", true, "")                                                                        \
  X(gap_in_numbers, "gap-in-numbers", false, "")                                                                   \
  X(no_length, "no-length", false, "")                                                                             \
  X(ground_jump, "ground-jump", false, "")                                                                         \
  X(pivot_missing, "pivot-missing", false, "")                                                                     \
  X(pivot_jump, "pivot-jump", false, "")                                                                           \
  X(mixed_sizes, "mixed-sizes", false, "")                                                                         \
  X(empty_frame, "empty-frame", false, "")                                                                         \
  X(equal_neighbours, "equal-neighbours", false, "")                                                               \
  X(same_picture, "same-picture", false, "")                                                                       \
  X(wrong_grid, "wrong-grid", false,                                                                               \
    "The cells of `tile:` cut through the pictures of the sheet, what they show wanders from cell to cell, or each " \
    "holds several pictures, and another grid would fit: told with its `tile:`, `margin:` and `spacing:`.")        \
  X(frame_jump, "frame-jump", false,                                                                               \
    "One frame shows nearly what the others of its clip show, some pixels beside it: drawn or cut out off its "    \
    "place, it makes the figure jump. A hint where the clip does not loop, as it may be meant there.")             \
  X(pixel_size, "pixel-size", false,                                                                               \
    "The clip is drawn in larger or smaller pixels than most of the machine: its pictures were saved at another "  \
    "scale, or enlarged, and look coarse or fine beside the others.")                                              \
  X(solid_background, "solid-background", false,                                                                   \
    "All frames are opaque, and around what they show lies one colour: saved without transparency, the game draws " \
    "it as a box. Where the ground lies, and which pixels differ, cannot be measured either.")                     \
  X(loop_seam, "loop-seam", false, "")                                                                             \
  X(absurd_rate, "absurd-rate", false, "")                                                                         \
  X(unreached_cue, "unreached-cue", false,                                                                         \
    "No run tells the cue: no state plays its clip, or a rule leaves each state that does before it is told, or "  \
    "it is told in one direction only (`way:`) and the clip never plays so. A hint where another state comes to "  \
    "it.")                                                                                                         \
  X(hardly_meant, "hardly-meant", false,                                                                           \
    "A value that is possible and hardly meant so: two single frames of a span, a window or a box, where all "     \
    "between them were meant; a pivot of less than a pixel, where it is a share of the picture; a press that "     \
    "waits for seconds; a blow that spares whom it hits; a box outside of its picture; a sensor of few pixels or " \
    "degrees, where world units or radians were meant; a range of one value; seconds where frames a second, "      \
    "percent where a factor is asked for. Where it is meant, `accept: [hardly-meant]`.")                           \
  X(look_misfit, "look-misfit", false, "")                                                                         \
  X(after_until, "after-until", false, "")                                                                         \
  X(unreachable, "unreachable", false,                                                                             \
    "No run enters the state: no rule leads to it or into it. States that lead only to each other are told once, " \
    "as an island. What the game enters with `force` or `place` says `accept: [unreachable]`.")                    \
  X(no_way_out, "no-way-out", false,                                                                               \
    "The state can be entered and nothing leads out of it, though it is no ending. A warning where its play ends " \
    "(the character would stand on the last frame for ever), else a hint. An ending says `final: true` or has the" \
    " trait `dead`.")                                                                                              \
  X(waits_at_end, "waits-at-end", false,                                                                           \
    "What the state plays ends, and from there only a press, a cue or an ending leads on, by rules of states "     \
    "around it: it has none of its own. Often `{at: end, to: ...}` is missing.")                                   \
  X(never_shown, "never-shown", false,                                                                             \
    "A rule leaves the state at the very instant at which it is entered, in every run, so what it plays is never " \
    "seen. Often `at: end` is missing in that rule.")                                                              \
  X(never_holds, "never-holds", false,                                                                             \
    "The rule cannot be taken: no values of its inputs satisfy the guard, nothing tells the cue that it waits "    \
    "for, another rule leaves the state before, or it leads to what is active already.")                           \
  X(always_holds, "always-holds", false,                                                                           \
    "The guard is true whatever the inputs are, so it says nothing. Often a comparison against the end of an "     \
    "input's range.")                                                                                              \
  X(shadowed, "shadowed", false,                                                                                   \
    "Whenever this rule holds, one that is looked at before it decides, so it never has its turn. Rules are "      \
    "looked at from the outermost state inwards, in each list from the top.")                                      \
  X(wrong_order, "wrong-order", false,                                                                             \
    "A rule above it in the same list decides whenever this one holds, and in more cases besides. The narrower "   \
    "rule belongs above the wider one.")                                                                           \
  X(flicker, "flicker", false,                                                                                     \
    "Two states lead to each other at one value of a float: an input that hovers there changes the state at every" \
    " step. Leave a gap between the two values, or wait with `after:`.")                                           \
  X(unused_input, "unused-input", false,                                                                           \
    "The game writes it and nothing in the machine reads it: no guard, speed, blend, choice of clips or action; "  \
    "or no rule takes the pulse.")                                                                                 \
  X(unused_var, "unused-var", false, "Nothing reads the variable.")                                                \
  X(unused_cue, "unused-cue", false, "The cue is declared, and no clip, action or transition tells it.")           \
  X(unused_clip, "unused-clip", false, "No state plays the clip.")                                                 \
  X(unused_window, "unused-window", false, "No rule says `during:` with this window.")                             \
  X(looks_misspelt, "looks-misspelt", false,                                                                       \
    "A word that is nearly one by which something is done: the kind of a cue (`damage`, `impulse`, `sound`, "      \
    "`spawn`), a field that is looked for in such a cue (`reach`, `forward`, `up`, `file`, `what`, `from`), its "  \
    "key `kind`, the role of a box (`hit`, `hurt`), the tag `self`, the trait `dead`; or a trait, a field or the " \
    "name of a box that stands once and is a slip away from one that stands more often. As it is written nothing " \
    "comes of it. A word of your own is accepted: `accept: [looks-misspelt]`.")                                    \
  X(unread_field, "unread-field", false,                                                                           \
    "A cue's field that is looked for by its name holds something else, so it counts as missing: numbers are "     \
    "`forward` and `up` of an `impulse`; words are `reach` of `damage`, `file` of a `sound` and `what` of a "      \
    "`spawn`; `from` of a `spawn` is `[x, y]`. `accept: [unread-field]` where the game reads it in its own way.")  \
  X(unused_reach, "unused-reach", false, "No cue names the reach.")                                                \
  X(never_set, "never-set", false,                                                                                 \
    "A variable is read, and nothing sets it: it stays what it starts with. A hint where it is a number, which "   \
    "may be meant as one that has a name.")                                                                        \
  X(stays_set, "stays-set", false,                                                                                 \
    "A variable of the whole machine is set to one value and never to another again, or it only grows, so it "     \
    "remembers for ever.")                                                                                         \
  X(hits_twice, "hits-twice", false,                                                                               \
    "One pass of the clip strikes more than once: two damage cues, or a hit box and a cue with a reach.")          \
  X(uneven_clips, "uneven-clips", false,                                                                           \
    "Of the clips that an input picks in a state, one does not tell a cue that all the others tell, or has no box "  \
    "of a role where they have one: who looks that way never strikes, or is never hit. A hint where nothing is "     \
    "done by what is missing, where something else is done in its place, and where no word makes all their names "   \
    "(`sting_up`, `sting_down`), as they may be of different kinds then.")                                           \
  X(replaced_marks, "replaced-marks", false,                                                                       \
    "A character's marks of a clip stand in place of the machine's, whole: cues and boxes that only the machine's "  \
    "have are gone, so it never strikes with that clip, or is never hit. A hint where nothing is done by what is "   \
    "gone, or something else is done in its place.")                                                                 \
  X(turn_skips, "turn-skips", false,                                                                               \
    "A cue by which something is done lies at different shares of the clips that an input picks. As the relative "   \
    "position stays where the input changes, a turn just then goes past the cue, or comes to it once more.")         \
  X(idle_accept, "idle-accept", false,                                                                             \
    "An `accept:` that accepts nothing: the finding is gone, or the code is misspelt.")                            \
  X(runaway, "runaway", false,                                                                                     \
    "Some values let rules lead round and round at one instant: the engine stops after 64 rounds, tells a fault "  \
    "and goes on. An error where it is so in every run, as no rule of the ring waits for anything.")               \
  X(press_lost, "press-lost", false,                                                                               \
    "A rule takes the press, and at the same instant another leads back, for what was true before is still true: " \
    "`jump` leads to `air`, and `grounded` back to the ground. The press did nothing. Let the way back wait "      \
    "(`after: 50ms`), or guard it.")                                                                               \
  X(revived, "revived", false,                                                                                     \
    "A state with the trait `dead` is left for one that is no ending: the dead get up. A seal (`sealed: true`) on" \
    " the dead state stops rules from outside.")                                                                   \
  X(stands_still, "stands-still", false,                                                                           \
    "A rule waits for the end (or the loop) of a play whose speed is an expression, and a run holds that "         \
    "expression at 0: it waits for ever. Keep the speed above 0, or give the state another way out.")
