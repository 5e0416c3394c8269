"""The stages of the work that are built: Proofs, Budget, Run."""
