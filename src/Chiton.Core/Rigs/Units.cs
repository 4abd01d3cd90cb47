namespace Chiton.Core.Rigs;

/// <summary>What a unit is: one thing on a table, or one stand-in.</summary>
public enum UnitKind
{
    /// <summary>Lives in the simulated controller, with hidden true numbers of its own; readings and trials are recorded from it.</summary>
    StandIn,

    /// <summary>On somebody's table; readings and trials are typed, pasted or read from files.</summary>
    Real,
}

/// <summary>Where a row of a copy seems to come from, as far as what is kept of it can be believed.</summary>
/// <param name="Recorded">Rows that were surely recorded from the simulated controller.</param>
/// <param name="Typed">Rows that were surely typed, pasted or read from a file.</param>
/// <param name="Unsure">Rows of which it cannot be said.</param>
public readonly record struct RowOrigins(int Recorded, int Typed, int Unsure);

/// <summary>Real and stand-in, in words, and what an older copy is.</summary>
public static class Units
{
    /// <summary>Where something was measured: on the table or on the stand-in.</summary>
    public static string Where(UnitKind kind) => kind == UnitKind.Real ? "on the table" : "on the stand-in";

    /// <summary>The same, where some of it came over a line from a box that stands in for the real thing.</summary>
    /// <param name="where">Where it would have been measured otherwise.</param>
    /// <param name="boxes">How many came from a box.</param>
    /// <param name="all">Of how many.</param>
    public static string Where(string where, int boxes, int all) =>
        boxes == 0 ? where
        : boxes == all ? "over the line, from a box"
        : $"{where}, {boxes} of them over the line, from a box";

    /// <summary>What a copy is called by its kind.</summary>
    public static string Word(UnitKind kind) => kind == UnitKind.Real ? "real" : "stand-in";

    /// <summary>
    /// What a copy from before is, judged by its rows: all surely recorded makes a stand-in, all surely typed a real one, none a
    /// stand-in to begin with. Any other counts as real, and is asked about once.
    /// </summary>
    public static (UnitKind Kind, bool Asks) Judge(RowOrigins rows) =>
        rows switch
        {
            { Recorded: 0, Typed: 0, Unsure: 0 } => (UnitKind.StandIn, false),
            { Recorded: > 0, Typed: 0 } => (UnitKind.StandIn, false),
            { Recorded: 0, Typed: > 0 } => (UnitKind.Real, false),
            _ => (UnitKind.Real, true),
        };
}
