"""The stages of the work, a folder each: Brief, Proofs, Compare, Budget, Run."""
