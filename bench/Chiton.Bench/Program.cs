using BenchmarkDotNet.Columns;
using BenchmarkDotNet.Configs;
using BenchmarkDotNet.Diagnosers;
using BenchmarkDotNet.Exporters;
using BenchmarkDotNet.Jobs;
using BenchmarkDotNet.Loggers;
using BenchmarkDotNet.Running;
using BenchmarkDotNet.Toolchains.InProcess.Emit;

// In this process, so that nothing is fetched and two cores are enough; medians of warm iterations.
var config = ManualConfig
    .CreateEmpty()
    .AddJob(
        Job.Default.WithToolchain(InProcessEmitToolchain.Instance)
            .WithWarmupCount(3)
            .WithIterationCount(7)
            .WithInvocationCount(1)
            .WithUnrollFactor(1)
    )
    .AddDiagnoser(MemoryDiagnoser.Default)
    .AddColumnProvider(DefaultColumnProviders.Instance)
    .AddColumn(StatisticColumn.Median)
    .AddLogger(ConsoleLogger.Default)
    .AddExporter(MarkdownExporter.Console);
BenchmarkSwitcher.FromAssembly(typeof(Program).Assembly).Run(args.Length == 0 ? ["--filter", "*"] : args, config);
