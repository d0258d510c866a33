// SPDX-License-Identifier: GPL-3.0-or-later
// Choices in a deliverable. Each takes one value and lets go of what was chosen for the value before it and means
// something else, or nothing, beside the new one. What comes of it can be made. The window, the fixes of findings and
// the command line's laying of presets share them. Thread-safe.
#pragma once

#include "project/Project.h"

namespace tromb {

/// So many times a bit rate, rounded to what people say, within what encoders take.
[[nodiscard]] int64_t scaledBitRate(int64_t bitRate, double by);
/// The canvas and rate of a normal version; bit rates that were said grow and shrink as the usual ones do.
void takePicture(Deliverable& deliverable, Size canvas, const FrameRate& rate);
/// The canvas, and the usual bit rate of its size; of a high version its own bit rate, in proportion. Sides that video
/// cannot have stay as they are, to be told.
void chooseCanvas(Deliverable& deliverable, Size canvas);
/// The codec of the picture: its container, rates, profile and so on become the usual ones of the new codec; what is
/// said of the sound and the file's title stays.
void chooseCodec(Deliverable& deliverable, Codec codec);
void chooseContainer(Deliverable& deliverable, Container container);
/// Depth and subsampling.
void chooseSamples(Deliverable& deliverable, const Samples& samples);
/// Rec. 709, HLG or PQ; the depth becomes one that carries it.
void chooseColour(Deliverable& deliverable, const ColourTags& colour);
/// A profile by its word, empty for the usual one. Entropy coding and B pictures that it has not become the usual.
void chooseProfile(Deliverable& deliverable, const std::string& profile);
void chooseRateControl(Deliverable& deliverable, RateControl control);
/// The average bit rate in bits a second; peak and buffer follow it.
void chooseBitRate(Deliverable& deliverable, int64_t bitRate);
/// The average bit rate, in two passes where the codec has them, with which a file of some length has at most so many
/// bytes, and hardly less. `sound`: something is heard in it. Errors: InvalidArgument where the codec settles its size
/// itself, and where that is too little for any picture, with what would do; nothing is changed then.
[[nodiscard]] Status chooseFileBytes(Deliverable& deliverable, int64_t bytes, const Rational& seconds, bool sound);
/// Encoders in graphics hardware are told less than those in software: the rest becomes usual.
void chooseHardware(Deliverable& deliverable, bool hardware);
/// What is copied keeps to no bit rate: a constant quality is chosen for what lies between.
void chooseCopies(Deliverable& deliverable, bool copies);
void chooseSoundPlace(Deliverable& deliverable, SoundPlace place);
void chooseSoundCodec(Deliverable& deliverable, SoundCodec codec);
void chooseChannels(Deliverable& deliverable, int channels);
void chooseSoundContent(Deliverable& deliverable, SoundContent content);

/// Lets go, part by part, of what keeps an encoding from being made, until it can be; does nothing where it can. The
/// level stays, since the level that is too low is told with what would carry it.
void makeEncodable(Deliverable& deliverable);

} // namespace tromb
