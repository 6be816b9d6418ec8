"""The circuit equation d/dt q(x) + f(x) = b(t): assembled, made ready for the kernels, read for currents."""
