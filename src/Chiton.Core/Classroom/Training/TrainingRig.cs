using Chiton.Core.Simulation;

namespace Chiton.Core.Classroom.Training;

/// <summary>A rig that exercises are made of: a copy of it, with its calibrations and trials.</summary>
/// <param name="Id">Address.</param>
/// <param name="Name">Name.</param>
/// <param name="Copy">What is known of the copy.</param>
public sealed record TrainingRig(string Id, string Name, BenchCopy Copy);

/// <summary>Drawing whole numbers.</summary>
internal static class LuckExtensions
{
    /// <summary>A whole number from 0 up to but not including another, each as likely.</summary>
    public static int Below(this ref RandomStream luck, int most) => Math.Min(most - 1, (int)(luck.Uniform() * most));

    /// <summary>The same list in another order.</summary>
    public static T[] Mixed<T>(this ref RandomStream luck, IEnumerable<T> list)
    {
        var all = list.ToArray();
        for (var i = all.Length - 1; i > 0; i--)
        {
            var at = luck.Below(i + 1);
            (all[i], all[at]) = (all[at], all[i]);
        }
        return all;
    }
}
