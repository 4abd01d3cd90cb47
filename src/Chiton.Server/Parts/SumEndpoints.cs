using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Server.Parts;

/// <summary>Every calculation as one call.</summary>
public static class SumEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var sums = api.MapGroup("/sums").WithTags("Sums");
        sums.MapPost("/threshold", Answer<ThresholdResult> (ThresholdInput input) => ThresholdSum.Compute(input)).WithName("sumThreshold").ProducesValidationProblem();
        sums.MapPost("/marker-pass", Answer<MarkerPassResult> (MarkerPassInput input) => MarkerPass.Compute(input)).WithName("sumMarkerPass").ProducesValidationProblem();
        sums.MapPost("/zones", Answer<ZonesResult> (ZonesInput input) => ZonesSum.Compute(input)).WithName("sumZones").ProducesValidationProblem();
        sums.MapPost("/colours", Answer<ColoursResult> (ColoursInput input) => Colours.Compute(input)).WithName("sumColours").ProducesValidationProblem();
        sums.MapPost("/sweep", Answer<SweepResult> (SweepInput input) => Sweep.Compute(input)).WithName("sumSweep").ProducesValidationProblem();
        sums.MapPost("/stop-distance", Answer<StopDistanceResult> (StopDistanceInput input) => StopDistance.Compute(input)).WithName("sumStopDistance").ProducesValidationProblem();
        sums.MapPost("/edge-guard", Answer<EdgeGuardResult> (EdgeGuardInput input) => EdgeGuard.Compute(input)).WithName("sumEdgeGuard").ProducesValidationProblem();
        sums.MapPost("/reaction", Answer<ReactionResult> (ReactionInput input) => Reaction.Compute(input)).WithName("sumReaction").ProducesValidationProblem();
        sums.MapPost("/push-over", Answer<PushOverResult> (PushOverInput input) => PushOver.Compute(input)).WithName("sumPushOver").ProducesValidationProblem();
        sums.MapPost("/echo", Answer<EchoResult> (EchoInput input) => Echo.Compute(input)).WithName("sumEcho").ProducesValidationProblem();
        sums.MapPost("/power-budget", Answer<PowerBudgetResult> (PowerBudgetInput input) => PowerBudget.Compute(input)).WithName("sumPowerBudget").ProducesValidationProblem();
        sums.MapPost("/signal-level", Answer<SignalLevelResult> (SignalLevelInput input) => SignalLevel.Compute(input)).WithName("sumSignalLevel").ProducesValidationProblem();
        sums.MapPost("/success-rate", Answer<SuccessRateResult> (SuccessRateInput input) => SuccessRate.Compute(input)).WithName("sumSuccessRate").ProducesValidationProblem();
        sums.MapPost("/{name}", (string name) => Results.Problem(title: $"There is no sum “{name}”.", statusCode: 404)).ExcludeFromDescription();
    }
}
