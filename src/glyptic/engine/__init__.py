"""From a document to pixels: the plan, tiles under content keys, the cache, the rendering of a region at a level."""
