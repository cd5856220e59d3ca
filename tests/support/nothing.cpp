// A target that only has precompiled headers needs a source.
