namespace Chiton.Server.App;

/// <summary>Limits of what the server takes in.</summary>
public static class Limits
{
    /// <summary>Largest body, bytes.</summary>
    public const long BodyBytes = 4 * 1024 * 1024;

    /// <summary>Largest file of a rig that is taken in, bytes. Larger than any that is given out: see
    /// <see cref="Data.ReadingStore.MostOfARig"/>.</summary>
    public const long ImportBytes = 64 * 1024 * 1024;

    /// <summary>Largest body that is read to its end only to be refused politely, bytes.</summary>
    public const long DrainBytes = 128 * 1024 * 1024;

    /// <summary>Longest time a walk may be worked on.</summary>
    public static readonly TimeSpan WalkWork = TimeSpan.FromSeconds(5);

    /// <summary>Longest time one run may be worked on.</summary>
    public static readonly TimeSpan RunWork = TimeSpan.FromSeconds(20);

    /// <summary>Shortest recording, s.</summary>
    public const double LeastRecordingS = 0.5;

    /// <summary>Longest recording, s.</summary>
    public const double MostRecordingS = 60;

    /// <summary>Most disturbances of a run.</summary>
    public const int MostFaults = 20;
}
