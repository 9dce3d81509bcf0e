"""Every check, one module a family. What they find stands, sentence by sentence, in ``core.findings``."""
