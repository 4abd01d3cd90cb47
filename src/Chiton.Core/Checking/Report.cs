using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Checking;

/// <summary>What the checks say of a rig with one of its copies.</summary>
/// <param name="Judgement">How its sensors hold.</param>
/// <param name="Findings">What was found in the running program, in the order of its lines; null when it has faults, so that nothing
/// could be looked at.</param>
public sealed record Report(RigJudgement Judgement, IReadOnlyList<Finding>? Findings)
{
    /// <summary>Looks at everything.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="motion">How the copy moves; null when nothing is known of it.</param>
    /// <param name="calibrations">The copy's calibrations by sensor name.</param>
    /// <param name="ages">When and how they were taken, by sensor name.</param>
    /// <param name="parsed">The running program.</param>
    public static Report Of(
        RigDesign rig,
        RailMotion? motion,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        IReadOnlyDictionary<string, CalibrationAge> ages,
        ParseResult parsed
    )
    {
        var judgement = SenseJudge.Rig([
            .. rig.Sensors.Select(s =>
                SenseJudge.Judge(s, calibrations.GetValueOrDefault(s.Name), ages.GetValueOrDefault(s.Name) ?? new(null, [], []))
            ),
        ]);
        return new(
            judgement,
            parsed.Diagnostics.Count > 0
                ? null
                :
                [
                    .. (motion is null ? [] : RailChecks.Find(rig, motion, calibrations, parsed.Program))
                        .Concat(RigFindings.Find(rig, judgement, parsed.Program))
                        .Concat(ProgramChecks.Find(parsed.Program))
                        .OrderBy(f => f.Line == 0 ? int.MaxValue : f.Line)
                        .ThenBy(f => f.Severity),
                ]
        );
    }
}
