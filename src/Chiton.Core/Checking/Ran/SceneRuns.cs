namespace Chiton.Core.Checking;

/// <summary>A run of the bench that can be watched.</summary>
/// <param name="Scene">Name of the scene.</param>
/// <param name="Seed">Its seed.</param>
/// <param name="CopySeed">Seed of the made-up copy.</param>
public sealed record BenchRun(string Scene, long Seed, long CopySeed);

/// <summary>Runs that failed alike.</summary>
/// <param name="Rule">The goal or never that was broken, as written; empty where the machine had to be stopped.</param>
/// <param name="IsNever">True where something happened that must never be.</param>
/// <param name="Program">Which of the programs that run took the last transition, from 0.</param>
/// <param name="Line">Line of that sentence in its program; 0 where none was taken. Where a goal was missed it is the last that was taken
/// for the first time: from there on nothing new came.</param>
/// <param name="Ended">Where things stood, in words.</param>
/// <param name="Count">How many runs.</param>
/// <param name="Common">What their drawn numbers have in common, in words; null where nothing sets them apart.</param>
/// <param name="Run">One of them.</param>
public sealed record FailedRuns(string Rule, bool IsNever, int Program, int Line, string Ended, int Count, string? Common, BenchRun Run)
{
    /// <summary>The same of every program, in the run that stands for them: the line of the last new sentence, 0 where none was
    /// taken.</summary>
    public IReadOnlyList<int> Lasts { get; init; } = [];
}

/// <summary>What the runs of a scene did in one program.</summary>
/// <param name="Taken">In how many runs each sentence was taken, by its line; others never.</param>
/// <param name="Entered">In how many runs each state was entered, and how many of those failed, by the state's line; others
/// never.</param>
public sealed record ProgramRuns(IReadOnlyDictionary<int, int> Taken, IReadOnlyDictionary<int, (int Runs, int Failed)> Entered);

/// <summary>A round of sentences that failed runs were going when their time was over, three times and more.</summary>
/// <param name="Program">Which of the programs that run, from 0.</param>
/// <param name="Lines">The lines of its sentences, in order, beginning with the first.</param>
/// <param name="Count">How many runs ended in it.</param>
/// <param name="Run">One of them.</param>
public sealed record RoundSeen(int Program, IReadOnlyList<int> Lines, int Count, BenchRun Run);

/// <summary>A guessed number that more hangs on than on any other.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Value">Its best value.</param>
/// <param name="Unit">Unit of it.</param>
/// <param name="Source">Where it comes from, in words.</param>
/// <param name="Worst">Share of runs that pass among the fifth where it is worst, 0 to 1.</param>
/// <param name="Measure">What measures it, in words; null where nothing does.</param>
public sealed record GuessThatDecides(string Name, double Value, string Unit, string Source, double Worst, string? Measure);

/// <summary>A goal that no run reaches in its time, and every run, or some, reach later.</summary>
/// <param name="Line">Line of the goal; in a program or in the scene.</param>
/// <param name="FromScene">True for a goal of the scene.</param>
/// <param name="Rule">The goal as written.</param>
/// <param name="LimitS">The time that it leaves, s.</param>
/// <param name="FastestS">How long the fastest run took without a limit, s.</param>
/// <param name="Runs">Runs without a limit.</param>
public sealed record TooShort(int Line, bool FromScene, string Rule, double LimitS, double FastestS, int Runs);

/// <summary>What runs of the bench in a scene showed, for the checks.</summary>
/// <param name="Scene">Its name.</param>
/// <param name="Counts">True where the header and Prove count it.</param>
/// <param name="Asks">True where a run can fail: a goal or a never can be judged there.</param>
/// <param name="Runs">How many runs were made.</param>
/// <param name="Passes">How many passed.</param>
/// <param name="Failures">The others, most first.</param>
/// <param name="Programs">What they did, program by program that runs.</param>
public sealed record SceneRuns(
    string Scene,
    bool Counts,
    bool Asks,
    int Runs,
    int Passes,
    IReadOnlyList<FailedRuns> Failures,
    IReadOnlyList<ProgramRuns> Programs
)
{
    /// <summary>So many runs without a failure make a risk no more than advice.</summary>
    public const int Settles = 2000;

    /// <summary>So many runs are made before anything is told of them.</summary>
    public const int First = 200;

    /// <summary>Rounds that failed runs ended in, most first.</summary>
    public IReadOnlyList<RoundSeen> Rounds { get; init; } = [];

    /// <summary>The number that decides most, where it is a guess; null where it is not, or where none stands out.</summary>
    public GuessThatDecides? Guess { get; init; }

    /// <summary>A goal that leaves too little time; null where none does.</summary>
    public TooShort? Short { get; init; }

    /// <summary>Why it could not be run; null where it was.</summary>
    public string? Cannot { get; init; }
}

/// <summary>What runs with a cure came to, on the luck of those without it.</summary>
/// <param name="Runs">Runs of each.</param>
/// <param name="Before">How many passed without it.</param>
/// <param name="After">How many pass with it.</param>
/// <param name="Worse">True where fewer pass, and not by luck.</param>
public sealed record CureRuns(int Runs, int Before, int After, bool Worse)
{
    /// <summary>In words.</summary>
    public string Say => $"Tried in the bench: {After} of {Runs} runs pass with it, {Before} without.";
}
