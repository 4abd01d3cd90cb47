using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Scxml;

/// <summary>One thing that happens in a walk.</summary>
/// <param name="Name">Name of the event; null when only time passes.</param>
/// <param name="Data">What it carries.</param>
/// <param name="AfterMs">How long after the one before, ms.</param>
public sealed record WalkEvent(string? Name, object? Data, double AfterMs);

/// <summary>Where a walk led.</summary>
/// <param name="Initial">Active atomic states after the start.</param>
/// <param name="After">The same after each event.</param>
public sealed record WalkResult(IReadOnlyList<string> Initial, IReadOnlyList<IReadOnlyList<string>> After)
{
    /// <summary>Of a script: everything about the start and each step; null for a document.</summary>
    public IReadOnlyList<Engine.WalkMoment>? Moments { get; init; }

    /// <summary>Of a script: where each running routine is after each event, as Routine.State; null for a document.</summary>
    public IReadOnlyList<IReadOnlyList<string>>? Inside { get; init; }

    /// <summary>Of a script: its states and routines, each of which can be walked alone; null for a document.</summary>
    public IReadOnlyList<string>? Parts { get; init; }
}

/// <summary>Walks a document through events without any rig.</summary>
public static class ScxmlWalk
{
    /// <summary>Most events of a walk.</summary>
    public const int MostEvents = 2_000;

    /// <summary>Walks.</summary>
    /// <param name="source">The document.</param>
    /// <param name="events">What happens, in order.</param>
    /// <param name="budget">How much may be done; null for as much as a walk of a script.</param>
    /// <exception cref="InputProblem">When the document cannot be read, or goes round and round; with the lines.</exception>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    public static WalkResult Run(string source, IReadOnlyList<WalkEvent> events, StepBudget? budget = null)
    {
        try
        {
            var document = ScxmlDocument.Read(source);
            var machine = new ScxmlMachine(document) { Budget = budget ?? new(Engine.ScriptWalk.MostSteps) };
            try
            {
                machine.Start();
                var initial = machine.Configuration;
                var after = new List<IReadOnlyList<string>>();
                foreach (var e in events)
                {
                    machine.Pass(e.AfterMs);
                    if (e.Name is not null)
                        machine.Send(e.Name, e.Data);
                    after.Add(machine.Configuration);
                }
                return new(initial, after);
            }
            catch (EndlessLoop loop)
            {
                throw new InputProblem(
                    "source",
                    loop.Nodes.Count == 0
                        ? $"Line {machine.LastLine}: here the machine goes on without end and without an event from outside."
                        : "The machine goes round and round without an event: "
                            + $"{string.Join(" → ", loop.Nodes.Select(n => document.States[n].Id))}."
                );
            }
            catch (ScxmlEvaluation e)
            {
                throw new InputProblem("source", $"Line {machine.LastLine}: {e.Message}");
            }
            catch (OutOfSteps e)
            {
                throw new InputProblem(
                    "source",
                    $"Line {machine.LastLine}: here the walk takes more than {e.Steps} steps, so it was stopped. Walk a shorter time, "
                        + "or find what goes on and on."
                );
            }
        }
        catch (ScxmlUnreadable u)
        {
            throw new InputProblem("source", string.Join(" ", u.Faults.Take(20).Select(f => $"Line {f.Line}: {f.Say}")));
        }
    }
}
