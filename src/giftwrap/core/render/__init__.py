"""From documents to light. Old compiler libraries would end the process, so a usable one is named
before anything here can load another."""

from giftwrap.core.render.engine import choose_llvm

choose_llvm()
