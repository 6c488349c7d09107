// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/result.hpp"

#include <cassert>

namespace fw {

const char* sentence_for(ErrorCode code) {
    switch (code) {
        case ErrorCode::FileMissing: return "There is no file %s: check the name, or choose another file.";
        case ErrorCode::FileUnreadable: return "The file %s cannot be read: check its permissions.";
        case ErrorCode::NotAFile: return "%s is a folder, device or pipe, not a file: choose a file.";
        case ErrorCode::FileTooLarge: return "%s is far larger than such a file can be: check that it is the right one.";
        case ErrorCode::NotAudio: return "%s is not a sound file this program can read: choose a WAV, FLAC, Ogg, MP3, AAC or similar file.";
        case ErrorCode::AudioEmpty: return "%s holds no sound: choose a recording that is not empty.";
        case ErrorCode::AudioTooShort: return "%s is shorter than one second, too short to analyse: choose a longer recording.";
        case ErrorCode::AudioSilent: return "%s is silent from start to end, so there is nothing to analyse: check that it is the right file.";
        case ErrorCode::AudioDamaged: return "%s is damaged and could be read only in part: what could be read is used; get a whole copy if you can.";
        case ErrorCode::AudioNotFinite: return "%s holds samples that are not numbers, which are played as silence: export it again if you hear gaps.";
        case ErrorCode::AudioManyChannels: return "%s has more than two channels, which are mixed to two: choose a stereo mix instead if there is one.";
        case ErrorCode::AudioLowRate: return "%s holds nothing above 8 kHz, so cymbals and hats are heard poorly: choose a fuller recording if there is one.";
        case ErrorCode::AudioHighRate: return "%s has a sample rate above 96 kHz, which is converted for playing and hearing: nothing needs to be done.";
        case ErrorCode::AudioChanges: return "%s changes its channels, rate or format on the way, as joined files do: all of it is used the way it begins.";
        case ErrorCode::AudioTooManyChannels: return "%s has more than 32 channels: mix it down to stereo first.";
        case ErrorCode::AudioRateOutOfRange: return "%s has a sample rate outside 4 to 768 kHz: convert it first.";
        case ErrorCode::AudioTooLong: return "%s is longer than six hours: cut out the song first.";
        case ErrorCode::FolderUnwritable: return "Nothing can be written to %s: choose another folder or change its permissions.";
        case ErrorCode::FileUnwritable: return "%s is a folder, device or pipe, which is never written over: choose a file name.";
        case ErrorCode::OverwritesInput: return "%s is what this work is made from, so nothing was written over it: choose another name.";
        case ErrorCode::EndingUnknown: return "%s ends in no kind of sound file that is written here: end it in .wav, .flac or .ogg.";
        case ErrorCode::DiskFull: return "The disk is full, so %s was not written and any earlier version is kept: free some space and save again.";
        case ErrorCode::RemakeDamaged: return "%s is damaged or is not a remake: restore it from a backup.";
        case ErrorCode::RemakeUnusable: return "%s cannot be opened, because %d: restore an earlier version of it.";
        case ErrorCode::RemakeFromFuture: return "%s was saved by a newer version of Fakturwerk: update the program to open it.";
        case ErrorCode::ReferenceGone: return "The reference recording %s is not where the remake expects it: point to where it is now.";
        case ErrorCode::ReferenceChanged: return "%s is not the recording this remake was made from: choose the file with the same content.";
        case ErrorCode::BeatsUnusable: return "%s is no list of beats, because %d: each line has to begin with a time in seconds.";
        case ErrorCode::GrooveUnusable: return "%s holds no groove, because %d: take a MIDI file with notes, or a text written by this program.";
        case ErrorCode::MidiEmpty: return "%s holds no notes, so there is nothing to add: choose a MIDI file that does.";
        case ErrorCode::MidiDamaged: return "%s is not a whole MIDI file: export it again from where it came from.";
        case ErrorCode::MidiUnusable: return "%s cannot be used, because %d: check that it is the right file.";
        case ErrorCode::MidiElsewhere: return "The notes of %s would lie more than half an hour outside the recording: check the offset.";
        case ErrorCode::SoundFontUnusable: return "The SoundFont %s cannot be loaded: install timgm6mb-soundfont or choose another one.";
        case ErrorCode::SoundUnusable: return "%s is no sound that can be used, because %d: choose one that was saved by this program.";
        case ErrorCode::IndexUnusable: return "The index of sounds in %s cannot be used, because %d: remove the file, it is made anew.";
        case ErrorCode::SampleTooLong: return "%s is longer than the two minutes a sampler takes: cut from it what is to be played.";
        case ErrorCode::PlugInMissing:
            return "The plug-in %s is not on this machine and is left out: install it, or take it away; what was set for it stays in the remake.";
        case ErrorCode::PlugInUnusable: return "The plug-in %s cannot be started and is left out: install it anew, or take it away.";
        case ErrorCode::PlugInFailed:
            return "The plug-in %s has crashed or does not answer and is left out: take it away, or change something to start it anew.";
        case ErrorCode::DeviceUnusable: return "The audio device %s cannot be opened: choose another device.";
        case ErrorCode::NoMidiInput: return "The keyboard %s cannot be listened to, because %d: choose another one, or the computer's keys.";
        case ErrorCode::CommandRefused: return "%s was not done, because %d.";
        case ErrorCode::WrongUsage: return "The command was not understood (%s): see --help.";
        case ErrorCode::Cancelled: return "Stopped before %s was finished.";
        case ErrorCode::OutOfMemory: return "There is not enough memory for %s: close other programs, or choose something shorter.";
        case ErrorCode::Unexpected: return "Something unexpected went wrong in %s (%d): what was open is kept as it was, so save it and try again.";
        case ErrorCode::Count_: break;
    }
    assert(false && "every ErrorCode has a sentence");
    return "%s";
}

std::string Error::message() const {
    std::string text = sentence_for(code);
    // The detail first: a subject may hold a %d of its own.
    if (const auto at = text.find("%d"); at != std::string::npos) text.replace(at, 2, detail.empty() ? "the reason is not known" : detail);
    if (const auto at = text.find("%s"); at != std::string::npos) text.replace(at, 2, subject);
    return text;
}

}  // namespace fw
