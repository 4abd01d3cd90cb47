using Chiton.Core.Programs.Language;

namespace Chiton.Core.Simulation;

/// <summary>A condition of a goal, a never or a line of a scene, bound once: what a machine knows, and what is asked of the world,
/// joined in three-valued logic.</summary>
internal sealed class Cond
{
    public enum Op : byte
    {
        And,
        Or,
        Not,

        /// <summary>A condition of a program's own.</summary>
        Asked,

        /// <summary>Something of the world.</summary>
        Fact,

        /// <summary>Never known: a name that no run can have.</summary>
        Unknown,
    }

    public required Op Kind { get; init; }
    public Cond? A { get; init; }
    public Cond? B { get; init; }

    /// <summary>Which program, and which of the conditions asked of it.</summary>
    public int Program { get; init; }
    public int Rule { get; init; }

    public WorldFact Fact { get; init; }
    public HowMany Many { get; init; }
    public int Count { get; init; }

    /// <summary>The things meant; empty where it is none.</summary>
    public int[] Things { get; init; } = [];

    /// <summary>The feed of a belt, or the line of somebody who asks, that is meant; −1 for none.</summary>
    public int Feed { get; init; } = -1;

    /// <summary>Lines of those who come before a sensor, that are meant.</summary>
    public int[] Comes { get; init; } = [];
    public int Drive { get; init; } = -1;
    public int Vehicle { get; init; } = -1;
    public int Axis { get; init; } = -1;
    public int Output { get; init; } = -1;
    public int Sense { get; init; } = -1;
    public int Place { get; init; } = -1;
    public string Text { get; init; } = "";
    public double Amount { get; init; }

    /// <summary>What it asks in words.</summary>
    public string Say { get; init; } = "";
}

/// <summary>A goal or a never of a run.</summary>
/// <param name="Text">The line as written.</param>
/// <param name="IsGoal">True for a goal.</param>
/// <param name="FromScene">True where the scene says it.</param>
/// <param name="Line">Its line in the program or the scene.</param>
public sealed record BenchRule(string Text, bool IsGoal, bool FromScene, int Line)
{
    internal Cond Cond { get; init; } = new() { Kind = Cond.Op.Unknown };

    internal RuleClock Clock { get; init; }

    /// <summary>Its time, µs; <see cref="long.MaxValue"/> where none is said.</summary>
    internal long Micros { get; init; } = long.MaxValue;

    /// <summary>The things for each of which it may come true once.</summary>
    internal string? OnceFor { get; init; }

    /// <summary>Why it cannot be judged in this scene; null when it can.</summary>
    public string? Unjudged { get; init; }
}

/// <summary>A line of points.</summary>
internal sealed record ScoreSpec(double Points, Cond? When, bool EachSecondLeft, int[] Things, WorldFact Fact, int Place, int Feed);
