namespace Chiton.Core.Checking;

/// <summary>What may happen to a program from outside.</summary>
internal enum StimulusKind : byte
{
    /// <summary>A sensor comes into a zone.</summary>
    Zone,

    /// <summary>A button goes down.</summary>
    Down,

    /// <summary>It comes up, later than a tap.</summary>
    Up,

    /// <summary>It comes up at once: a tap.</summary>
    UpSoon,

    /// <summary>It comes up at once, for the second time in a row.</summary>
    UpAgain,

    /// <summary>A sensor hears nothing.</summary>
    Silent,

    /// <summary>A sensor cannot tell what it was taught.</summary>
    Confused,

    /// <summary>A sensor reads a number.</summary>
    Reads,

    /// <summary>What a device does ends by itself.</summary>
    Ended,

    /// <summary>A device stalls.</summary>
    Stalled,

    /// <summary>A device has come a way.</summary>
    Travelled,

    /// <summary>A device has come to an angle.</summary>
    Turned,

    /// <summary>A time is up.</summary>
    TimeUp,

    /// <summary>A program that is not explored says something.</summary>
    Said,

    /// <summary>A message arrives.</summary>
    Told,
}

/// <summary>Something that may happen.</summary>
/// <param name="Kind">What.</param>
/// <param name="What">The sensor, device, group of times or message.</param>
/// <param name="Which">The zone, or the stretch that a number lies in.</param>
internal readonly record struct Stimulus(StimulusKind Kind, int What, int Which = -1);
