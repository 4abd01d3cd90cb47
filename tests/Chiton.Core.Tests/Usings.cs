global using Chiton.Core.Programs;
global using Chiton.Core.Proving;
global using Chiton.Core.Quantities;
global using Chiton.Core.Rigs;
global using Chiton.Core.Sensing;
global using Chiton.Core.Simulation;
global using CsCheck;
global using Xunit;
