namespace Chiton.Core.Classroom.Training;

/// <summary>The kinds of exercises; each is a skill of its own.</summary>
public enum ExerciseKind
{
    /// <summary>Which sentence goes, and what follows.</summary>
    Next,

    /// <summary>In which state it is after each of five events.</summary>
    Trace,

    /// <summary>Which sentence was made wrong.</summary>
    Fault,

    /// <summary>Where a threshold belongs.</summary>
    Threshold,

    /// <summary>A number of motion, worked out.</summary>
    Work,

    /// <summary>How often it will work.</summary>
    Rate,

    /// <summary>Which number to measure.</summary>
    Measure,
}

/// <summary>Something that can be chosen.</summary>
/// <param name="Text">What.</param>
/// <param name="Why">Why it is right, or why it is not.</param>
public sealed record ExerciseOption(string Text, string Why);

/// <summary>A usual slip.</summary>
/// <param name="Value">The number that it gives.</param>
/// <param name="Say">What was done, named.</param>
public sealed record Slip(double Value, string Say);

/// <summary>A number that is asked for.</summary>
/// <param name="Unit">Its unit; empty for a bare number.</param>
/// <param name="Right">The right number.</param>
/// <param name="Give">How far off is still right: what the numbers it comes from are unsure by.</param>
/// <param name="Slips">Usual slips; none of them is right.</param>
public sealed record NumberAsked(string Unit, double Right, double Give, IReadOnlyList<Slip> Slips);

/// <summary>Readings of two zones between which a threshold is put.</summary>
/// <param name="Sensor">The sensor.</param>
/// <param name="Unit">Unit of its readings.</param>
/// <param name="Lower">The zone that reads lower.</param>
/// <param name="Upper">The zone that reads higher.</param>
/// <param name="LowerReadings">Readings of the lower zone.</param>
/// <param name="UpperReadings">Readings of the upper zone.</param>
/// <param name="Best">The threshold that costs least.</param>
public sealed record DotsShown(
    string Sensor,
    string Unit,
    string Lower,
    string Upper,
    IReadOnlyList<double> LowerReadings,
    IReadOnlyList<double> UpperReadings,
    double Best
);

/// <summary>Five events and the states that they lead to.</summary>
/// <param name="Events">What happens, in order.</param>
/// <param name="States">The states there are.</param>
/// <param name="Right">Which of them it is in after each event.</param>
/// <param name="Why">What happened at each event.</param>
public sealed record TraceAsked(
    IReadOnlyList<string> Events,
    IReadOnlyList<string> States,
    IReadOnlyList<int> Right,
    IReadOnlyList<string> Why
);

/// <summary>How often a machine passed.</summary>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Runs">Runs made.</param>
public sealed record RateAsked(int Passes, int Runs);

/// <summary>An exercise with its answer. What is asked for is one of: an option, a trace, a number, a threshold, a rate.</summary>
/// <param name="Kind">Its kind.</param>
/// <param name="Key">The same for the same exercise.</param>
/// <param name="Rig">Name of the rig that it is made of.</param>
/// <param name="Ask">The question.</param>
/// <param name="Program">Lines of the program that are shown.</param>
/// <param name="Facts">What else is known: where it is, what its variables are.</param>
public sealed record Exercise(
    ExerciseKind Kind,
    string Key,
    string Rig,
    string Ask,
    IReadOnlyList<string> Program,
    IReadOnlyList<string> Facts
)
{
    /// <summary>What can be chosen; empty where nothing is.</summary>
    public IReadOnlyList<ExerciseOption> Options { get; init; } = [];

    /// <summary>Which of the options is right.</summary>
    public int Right { get; init; } = -1;

    /// <summary>The trace that is asked for; null for other kinds.</summary>
    public TraceAsked? Trace { get; init; }

    /// <summary>The number that is asked for; null for other kinds.</summary>
    public NumberAsked? Number { get; init; }

    /// <summary>The dots that a threshold is put between; null for other kinds.</summary>
    public DotsShown? Dots { get; init; }

    /// <summary>How often it passed; null for other kinds.</summary>
    public RateAsked? Rate { get; init; }

    /// <summary>What was walked through for it, in order, so that the engine can be asked again; empty for other kinds.</summary>
    public IReadOnlyList<Programs.Scxml.WalkEvent> Walked { get; init; } = [];

    /// <summary>The reason, shown after the answer.</summary>
    public string Reason { get; init; } = "";
}

/// <summary>An answer.</summary>
/// <param name="Choice">The option that was chosen, from 0; null for other kinds.</param>
/// <param name="Steps">The state after each event, by its place in the list; null for other kinds.</param>
/// <param name="Number">The number, the threshold, or how many of 100 will pass; null for other kinds.</param>
public sealed record ExerciseAnswer(int? Choice = null, IReadOnlyList<int>? Steps = null, double? Number = null);

/// <summary>What an answer is worth.</summary>
/// <param name="Right">True where it counts as one that can do it.</param>
/// <param name="Score">From 0 to 1: how good it was; of a forecast one less the Brier score.</param>
/// <param name="Say">So, in a sentence.</param>
/// <param name="FirstSlip">Of a trace: the first event after which the state is another, from 0; null where none is.</param>
public sealed record Judged(bool Right, double Score, string Say, int? FirstSlip = null);
