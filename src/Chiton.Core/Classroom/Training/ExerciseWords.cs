using Chiton.Core.Quantities;

namespace Chiton.Core.Classroom.Training;

/// <summary>Answers as they stand on the back of a sheet.</summary>
public static class ExerciseWords
{
    /// <summary>The right answer and the reason.</summary>
    public static string Answer(Exercise e) =>
        e switch
        {
            { Trace: { } t } => $"{string.Join(", ", t.Right.Select(i => t.States[i]))}. {e.Reason}",
            { Number: { } n } => $"{Figures.Show(n.Right)}{(n.Unit == "" ? "" : " " + n.Unit)}. {e.Reason}",
            { Dots: { } d } => $"{Figures.Show(d.Best)} {d.Unit}. {e.Reason}",
            { Rate: { } r } => $"{Math.Round(100.0 * r.Passes / r.Runs)} of 100. {e.Reason}",
            _ => $"{(char)('a' + e.Right)}: {e.Options[e.Right].Text.TrimEnd('.')}. {e.Options[e.Right].Why}",
        };
}
