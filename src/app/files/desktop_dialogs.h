#pragma once
// File dialogs that are the desktop's own.

namespace molten {

/// Where the desktop has a portal (an `org.freedesktop.portal.FileChooser` on the session's bus), it is what asks for files
/// from here on: so it looks as all others do there, knows what is mounted, and reaches out of a sandbox. Qt finds out by
/// itself whether there is one, without being waited for, and goes on with its own dialogs otherwise. Before there is an
/// application: it asks for its themes once. A theme that the user has set stays.
void useDesktopDialogs();

}  // namespace molten
