using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A message that another program is told and never listens for.</summary>
internal sealed class Unheard : Check
{
    /// <inheritdoc/>
    public override string Code => "unheard";

    /// <inheritdoc/>
    public override string Title => "A message nobody listens for";

    /// <inheritdoc/>
    public override string Says => "A program tells another one something that no sentence of that one waits for: nothing comes of it.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var command in input.Walk.Commands)
        {
            // Of a program that is stored, or cannot be read yet, nobody knows what it will listen for.
            if (command.Action is not TellNode tell || input.Programs.FirstOrDefault(p => p.Name == tell.Program) is not { } other)
                continue;
            var heard = other
                .Parsed.Program.AllStates.SelectMany(s => s.Lines)
                .OfType<TransitionNode>()
                .Any(t =>
                    t.Trigger is ToldTriggerNode told && told.Text == tell.Text && (told.From is null || told.From == input.Program.Name)
                );
            if (!heard)
                yield return At(
                    command.At,
                    Severity.Risky,
                    $"{tell.Program} never listens for “{tell.Text}”",
                    $"No sentence of {tell.Program} waits for being told “{tell.Text}”"
                        + (Near(other, tell.Text) is { } near ? $"; it waits for “{near}”" : "")
                        + ". Nothing comes of it."
                );
        }
    }

    // What it listens for that differs in little but case and spaces.
    private static string? Near(RigProgram program, string text) =>
        program
            .Parsed.Program.AllStates.SelectMany(s => s.Lines)
            .OfType<TransitionNode>()
            .Select(t => t.Trigger)
            .OfType<ToldTriggerNode>()
            .Select(t => t.Text)
            .FirstOrDefault(t => Words(t) == Words(text));

    private static string Words(string text) => string.Concat(text.Where(char.IsLetterOrDigit)).ToLowerInvariant();
}
