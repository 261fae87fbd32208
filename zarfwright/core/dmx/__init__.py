"""DMX: levels to features and back. Compile a rig once, decode it every frame; merge what several sources say."""
