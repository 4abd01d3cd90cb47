global using System.Net;
global using System.Net.Http.Json;
global using System.Text.Json;
global using Chiton.Tests;
global using Xunit;
