// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace tromb {

/// For the beginning of `main`, before any file is opened: standard streams that are closed become /dev/null, so that
/// no file of ours takes their number and with it what is printed; a closed pipe and a limit to the size of files are
/// errors of the writing that meets them, not the end of the process.
void prepareProcess();

} // namespace tromb
