namespace Chiton.Tests;

/// <summary>Campaigns run whole by <c>./dev long</c>; <c>./dev test</c> runs a sample of each.</summary>
public static class Campaign
{
    /// <summary>True when all of it is to be run.</summary>
    public static bool Whole => Environment.GetEnvironmentVariable("CHITON_LONG") == "1";

    /// <summary>How many to run.</summary>
    public static int Of(int sample, int whole) => Whole ? whole : sample;
}
