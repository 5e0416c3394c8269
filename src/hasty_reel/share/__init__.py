"""What a desktop is told of the program: its menu entry, icon, kind of file, man pages and completion.

integration  puts them where the desktop looks for them, and takes them away again
data         the files themselves; man pages and completion are made from the commands by docs/manpages.py
"""
