namespace Chiton.Core.Programs.Outside;

/// <summary>What a box and the desk say to each other: one line of text each.</summary>
public abstract record BoxMessage
{
    /// <summary>The line, without its end.</summary>
    public sealed override string ToString() => BoxLine.Print(this);
}

/// <summary><c>chiton 1 NAME [stand-in]</c>: who is there.</summary>
/// <param name="Version">Version of the line: 1.</param>
/// <param name="Name">What the rig is called.</param>
/// <param name="StandIn">True when it is no real thing.</param>
public sealed record BoxHello(int Version, string Name, bool StandIn) : BoxMessage;

/// <summary><c>have NAME KIND PERIOD</c>: a sensor that the box has.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Kind">One word for what it is, as <c>light</c>.</param>
/// <param name="PeriodMs">Time between its readings, ms; greater than 0.</param>
public sealed record BoxHave(string Name, string Kind, double PeriodMs) : BoxMessage;

/// <summary><c>tell NAME</c>: readings of a sensor are wanted from here on.</summary>
/// <param name="Name">The sensor.</param>
public sealed record BoxTell(string Name) : BoxMessage;

/// <summary><c>quiet NAME</c>: they are wanted no more.</summary>
/// <param name="Name">The sensor.</param>
public sealed record BoxQuiet(string Name) : BoxMessage;

/// <summary><c>r MICROS NAME READING</c>: what a sensor read.</summary>
/// <param name="Micros">When, µs since the box was started; 0 to 10¹⁵. One of 32 bits is carried on by <see cref="BoxClock"/>.</param>
/// <param name="Name">The sensor.</param>
/// <param name="Values">One number, or red, green and blue; empty for nothing heard, and where the sensor says its zone.</param>
/// <param name="Zone">Its zone, where the sensor says that itself; null otherwise.</param>
public sealed record BoxReading(long Micros, string Name, Quantities.Sequence<double> Values, string? Zone) : BoxMessage;

/// <summary><c>do NAME ORDER</c>: a device does something, as the language says it.</summary>
/// <param name="Name">The device.</param>
/// <param name="Verb">What it does, one of <see cref="BoxLine.Verbs"/>.</param>
/// <param name="Value">How fast, at which angle, which tone; null where nothing is said of it.</param>
/// <param name="Unit">Unit of the value.</param>
/// <param name="Amount">How far, or the second of two numbers; null where nothing is said of it.</param>
/// <param name="AmountUnit">Unit of the amount.</param>
/// <param name="Seconds">For how long; null until something else is told.</param>
/// <param name="Words">What else is said, as a colour or a text; empty for nothing.</param>
public sealed record BoxOrder(
    string Name,
    string Verb,
    double? Value,
    string Unit,
    double? Amount,
    string AmountUnit,
    double? Seconds,
    string Words
) : BoxMessage;

/// <summary><c>done NAME</c>: a move has come to its end by itself.</summary>
/// <param name="Name">The device.</param>
public sealed record BoxDone(string Name) : BoxMessage;

/// <summary><c>stalls NAME</c>: a device is told to move and does not.</summary>
/// <param name="Name">The device.</param>
public sealed record BoxStalls(string Name) : BoxMessage;

/// <summary><c>gives up NAME</c>: the time of a move is up.</summary>
/// <param name="Name">The device.</param>
public sealed record BoxGivesUp(string Name) : BoxMessage;

/// <summary><c>state MICROS PROGRAM STATE</c>: where a program is.</summary>
/// <param name="Micros">When, µs.</param>
/// <param name="Program">The program.</param>
/// <param name="State">Its state.</param>
public sealed record BoxState(long Micros, string Program, string State) : BoxMessage;

/// <summary><c>holds HASH</c>: which program it runs.</summary>
/// <param name="Hash">Of what was sent to it.</param>
public sealed record BoxHolds(string Hash) : BoxMessage;

/// <summary><c>battery VOLTS</c>.</summary>
/// <param name="Volts">What the pack gives, V; 0 to 1000.</param>
public sealed record BoxBattery(double Volts) : BoxMessage;

/// <summary><c>? WORDS</c>: somebody asks.</summary>
/// <param name="Words">What for; empty for who is there.</param>
public sealed record BoxAsk(string Words) : BoxMessage;

/// <summary><c>ok</c>.</summary>
public sealed record BoxOk : BoxMessage;

/// <summary><c>no REASON</c>.</summary>
/// <param name="Reason">Why not.</param>
public sealed record BoxNo(string Reason) : BoxMessage;

/// <summary>A line that nobody understands: it is counted and shown.</summary>
/// <param name="Line">The line.</param>
/// <param name="Why">What is wrong with it, in a sentence.</param>
public sealed record BoxStrange(string Line, string Why) : BoxMessage;
