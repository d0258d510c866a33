// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Choices.h"

#include "project/Sharing.h"

#include <algorithm>
#include <cmath>
#include <functional>

namespace tromb {
namespace {

/// A container of sound alone follows from its codec.
void forgetContainerOfSound(Encoding& e) {
  if (e.container && !infoOf(*e.container).picture) e.container.reset();
}

/// What only an encoder in software is told.
void forgetFinePoints(Encoding& e) {
  const Encoding usual;
  e.passes = usual.passes;
  e.highTier = usual.highTier;
  e.openGroups = usual.openGroups;
  e.keysAtCuts = usual.keysAtCuts;
  e.bPictures = usual.bPictures;
  e.references = usual.references;
  e.entropy = usual.entropy;
  e.speed.clear();
  e.tune.clear();
}

} // namespace

int64_t scaledBitRate(int64_t bitRate, double by) {
  constexpr int64_t kStep = 100'000; // bits a second; of small ones a hundredth of that
  const double wanted = double(bitRate) * by;
  const int64_t step = wanted < double(10 * kStep) ? kStep / 100 : kStep;
  return std::clamp(int64_t(std::lround(wanted / double(step))) * step, kLeastBitRate, kMostBitRate);
}

void chooseCanvas(Deliverable& d, Size canvas) {
  if (d.canvas == canvas) return;
  if (!framesItself(d)) return takePicture(d, canvas, d.rate);
  d.canvas = canvas;
  chooseBitRate(d, 0);
  makeEncodable(d);
}

void takePicture(Deliverable& d, Size canvas, const FrameRate& rate) {
  if (d.canvas == canvas && d.rate == rate) return;
  const double by = double(usualBitRate(canvas, rate)) / double(usualBitRate(d.canvas, d.rate));
  d.canvas = canvas;
  d.rate = rate;
  for (int64_t* each : {&d.encoding.bitRate, &d.encoding.maxBitRate, &d.encoding.bufferBits})
    if (*each > 0) *each = scaledBitRate(*each, by);
  makeEncodable(d);
}

void chooseCodec(Deliverable& d, Codec codec) {
  if (d.encoding.codec == codec) return;
  Encoding usual;
  usual.codec = codec;
  usual.title = d.encoding.title;
  usual.comment = d.encoding.comment;
  usual.language = d.encoding.language;
  usual.chapters = d.encoding.chapters;
  usual.captions = d.encoding.captions;
  usual.unknown = d.encoding.unknown;
  usual.sound = d.encoding.sound;
  usual.sound.codec.reset(); // what goes into one container may not go into the other
  usual.sound.bitRate = 0;
  d.encoding = usual;
  d.format = infoOf(codec).fitting(d.format);
  makeEncodable(d);
}

void chooseContainer(Deliverable& d, Container container) {
  Encoding& e = d.encoding;
  e.container = container;
  if (e.sound.codec) {
    const auto& into = infoOf(*e.sound.codec).containers;
    if (std::find(into.begin(), into.end(), container) == into.end()) e.sound.codec.reset();
  }
  makeEncodable(d);
}

void chooseSamples(Deliverable& d, const Samples& samples) {
  d.format.depth = samples.depth;
  d.format.chroma = samples.chroma;
  d.encoding.profile.clear();
  makeEncodable(d);
}

void chooseColour(Deliverable& d, const ColourTags& colour) {
  d.format.colour = colour;
  if (isHdr(colour) && d.format.depth < 10)
    for (const Samples& each : d.encoding.info().samples)
      if (each.depth >= 10 && d.format.depth < 10) chooseSamples(d, each);
  d.encoding.profile.clear();
  makeEncodable(d);
}

void chooseRateControl(Deliverable& d, RateControl control) {
  d.encoding.rateControl = control;
  if (control != RateControl::Variable) d.encoding.passes = 1;
  makeEncodable(d);
}

void chooseProfile(Deliverable& d, const std::string& profile) {
  Encoding& e = d.encoding;
  e.profile = profile;
  const auto held = [&d] { return encodable(resolvedEncoding(d), pictureOf(d)).has_value(); };
  if (!held()) e.entropy = Entropy::Usual;
  if (!held()) e.bPictures.reset();
  makeEncodable(d);
}

void chooseBitRate(Deliverable& d, int64_t bitRate) {
  d.encoding.bitRate = bitRate;
  d.encoding.maxBitRate = d.encoding.bufferBits = 0;
}

Status chooseFileBytes(Deliverable& d, int64_t bytes, const Rational& seconds, bool sound) {
  // Two passes come within two hundredths of their average (measured here with x264, x265 and libvpx); one pass may
  // miss it by more.
  constexpr double kFilled = 0.975;
  constexpr double kFilledInOnePass = 0.96;
  constexpr int64_t kStep = 1000; // bits a second
  Deliverable chosen = d;
  if (!d.encoding.hasPicture()) return fail(ErrorCode::InvalidArgument, say("there is no picture in it"));
  if (!d.encoding.info().takes(RateControl::Variable))
    return fail(ErrorCode::InvalidArgument, say("%1 settles its size itself", d.encoding.info().name), {},
                say("Choose another codec"));
  if (resolvedEncoding(chosen).rateControl == RateControl::ConstantQuality)
    chooseRateControl(chosen, RateControl::Variable);
  const bool twice = chosen.encoding.info().twoPasses && !chosen.encoding.hardware;
  chosen.encoding.passes = twice ? 2 : 1;
  chooseBitRate(chosen, 0);
  makeEncodable(chosen);
  const Encoding e = resolvedEncoding(chosen);
  const bool heard = sound && e.sound.place == SoundPlace::Within;
  const auto beside = double((heard ? estimatedBytes(0, bitRateOf(e.sound), seconds) : 0) +
                             containerBytes((seconds * d.rate.value()).ceil(), heard ? seconds : Rational(0)));
  const double filled = twice ? kFilled : kFilledInOnePass;
  const double bits = (double(bytes) * filled - beside) * 8 / seconds.toDouble();
  if (bits < double(kLeastBitRate)) {
    const double least = (double(kLeastBitRate) * seconds.toDouble() / 8 + beside) / filled;
    return fail(ErrorCode::InvalidArgument, say("%1 are too few for %2 s", bytesText(bytes), seconds.nearest()), {},
                say("It takes at least %1", bytesText(int64_t(least) + 1)));
  }
  chooseBitRate(chosen, int64_t(std::min(bits, double(kMostBitRate)) / kStep) * kStep);
  makeEncodable(chosen);
  d = std::move(chosen);
  return {};
}

void chooseHardware(Deliverable& d, bool hardware) {
  d.encoding.hardware = hardware;
  if (!hardware) return;
  forgetFinePoints(d.encoding);
  if (d.encoding.rateControl == RateControl::Constant) d.encoding.rateControl = RateControl::Variable;
  makeEncodable(d);
}

void chooseCopies(Deliverable& d, bool copies) {
  Encoding& e = d.encoding;
  e.copies = copies;
  if (!copies) return;
  e.rateControl = RateControl::ConstantQuality;
  e.passes = 1;
  e.maxBitRate = e.bufferBits = 0;
  e.hardware = false;
  makeEncodable(d);
}

void chooseSoundPlace(Deliverable& d, SoundPlace place) {
  SoundEncoding& s = d.encoding.sound;
  s.place = place;
  s.codec.reset(); // what goes into one file may not go into another
  forgetContainerOfSound(d.encoding);
  makeEncodable(d);
}

void chooseSoundCodec(Deliverable& d, SoundCodec codec) {
  SoundEncoding& s = d.encoding.sound;
  s.codec = codec;
  s.bitRate = 0;
  forgetContainerOfSound(d.encoding);
  const std::vector<int>& channels = infoOf(codec).channels;
  if (std::find(channels.begin(), channels.end(), s.channels) == channels.end()) s.channels = channels.front();
  makeEncodable(d);
}

void chooseChannels(Deliverable& d, int channels) {
  d.encoding.sound.channels = channels;
  d.encoding.sound.bitRate = 0;
  makeEncodable(d);
}

void chooseSoundContent(Deliverable& d, SoundContent content) {
  d.encoding.sound.content = content;
  d.encoding.sound.bitRate = 0;
}

void makeEncodable(Deliverable& d) {
  Encoding& e = d.encoding;
  // From what is missed least to what is missed most.
  const std::function<void()> lettingGo[] = {
      [&] { e.chapters = Chapters::None; },
      [&] { e.sound.bitRate = 0; },
      [&] { e.sound.sampleRate = SoundEncoding().sampleRate; },
      [&] { e.sound.codec.reset(); },
      [&] { e.sound.channels = SoundEncoding().channels; },
      [&] { e.tune.clear(); },
      [&] { e.entropy = Entropy::Usual; },
      [&] { e.profile.clear(); },
      [&] { e.highTier = false; },
      [&] { e.copies = false; },
      [&] { e.maxBitRate = e.bufferBits = 0; },
      [&] { e.crf.reset(); },
      [&] { e.hardware = false; },
      [&] { forgetFinePoints(e); },
      [&] { e.keySeconds = Encoding().keySeconds; },
      [&] { e.rateControl.reset(); },
      [&] { e.bitRate = 0; },
      [&] { e.container.reset(); },
      [&] { d.format = e.info().fitting(d.format); },
      [&] { d.format.colour = kRec709; },
      [&] { e.level.clear(); },
  };
  // A size or a rate that the codec does not have is left: it is told, not changed.
  for (const auto& letGo : lettingGo) {
    const Status before = encodable(resolvedEncoding(d), pictureOf(d));
    if (before) return;
    const Deliverable kept = d;
    letGo();
    const Status after = encodable(resolvedEncoding(d), pictureOf(d));
    if (!after && after.error().message == before.error().message) d = kept; // it was not that
  }
}

} // namespace tromb
