using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Checking;

/// <summary>Which readings of a rig will be taken while it rolls, and how fast.</summary>
public static class SenseRolling
{
    /// <summary>How an eye of the rig will read: rolling at the fastest power that its programs ask for, or at a usual speed where they
    /// name none; null for what stays where it is, and for sensors that look at no surface.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="moves">How the copy moves.</param>
    /// <param name="eye">The sensor.</param>
    /// <param name="fastestPercent">The fastest power that the running program asks of the rail vehicle, %; null when it names
    /// none.</param>
    public static Rolling? Of(RigDesign rig, CopyMoves moves, Sensor eye, double? fastestPercent)
    {
        if (!rig.Eyes.Contains(eye) || rig.Mechanisms.FirstOrDefault(m => m.Facts.Going != Going.Nowhere) is not { } vehicle)
            return null;
        if (moves.InUse(vehicle.Name, TrialKind.Tremble) is not { } tremble)
            return null;
        double? said = moves.Motion is { } motion && fastestPercent is { } power && motion.SteadySpeed(power) is > 0 and var v ? v : null;
        // A rail vehicle that no program moves stands still; what steers is assumed to be driven.
        if (tremble.Value <= 0 || said is null && vehicle.Facts.Going == Going.OnRail)
            return null;
        return new(said ?? MoveNumbers.UsualSpeed, tremble) { UsualSpeed = said is null };
    }
}
