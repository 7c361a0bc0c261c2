using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

[Collection(nameof(SharedOffice))]
public sealed class SignInTests(Office office)
{
    [Fact]
    public async Task Everything_but_signing_in_needs_it()
    {
        using var stranger = new HttpClient { BaseAddress = new Uri(office.Address) };
        await Office.RenewTokenAsync(stranger);
        var document = JsonNode.Parse(await stranger.GetStringAsync("/openapi/v1.json"))!;
        var open = new[] { "/api/me", "/api/sign-in", "/api/sign-out" };
        foreach (var (path, methods) in document["paths"]!.AsObject().Where(p => !open.Contains(p.Key)))
        {
            var address = global::System.Text.RegularExpressions.Regex.Replace(path, @"\{[^}]+\}", "1", global::System.Text.RegularExpressions.RegexOptions.NonBacktracking)
                .Replace("/rehearsals/1", $"/rehearsals/{Guid.Empty}", StringComparison.Ordinal)
                .Replace("/uploads/1", $"/uploads/{Guid.Empty}", StringComparison.Ordinal);
            foreach (var (method, _) in methods!.AsObject())
            {
                using var request = new HttpRequestMessage(new HttpMethod(method.ToUpperInvariant()), address);
                using var answer = await stranger.SendAsync(request);
                answer.StatusCode.ShouldBeOneOf([HttpStatusCode.Unauthorized, HttpStatusCode.BadRequest], $"{method} {path}");
                if (method == "get")
                {
                    answer.StatusCode.ShouldBe(HttpStatusCode.Unauthorized, path);
                }
            }
        }
    }

    [Fact]
    public async Task A_change_without_the_pages_token_is_refused()
    {
        using var person = await office.SignInAsync("desk@saltmarrow.example");
        person.DefaultRequestHeaders.Remove("X-Request-Token");
        using var answer = await person.PostAsJsonAsync("/api/items/1/done", new { });
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await answer.Content.ReadAsStringAsync()).ShouldContain("no valid token");
    }

    [Theory]
    [InlineData("desk@saltmarrow.example", "PUT", "/api/setup/queues/0", HttpStatusCode.Forbidden)]
    [InlineData("desk@saltmarrow.example", "POST", "/api/workflows", HttpStatusCode.Forbidden)]
    [InlineData("builder@saltmarrow.example", "POST", "/api/items/1/done", HttpStatusCode.Forbidden)]
    [InlineData("builder@saltmarrow.example", "PUT", "/api/setup/destinations/0", HttpStatusCode.Forbidden)]
    [InlineData("desk@saltmarrow.example", "POST", "/api/replies/1/send", HttpStatusCode.Forbidden)]
    [InlineData("checker@saltmarrow.example", "POST", "/api/deeds/1/retry", HttpStatusCode.Forbidden)]
    [InlineData("checker@saltmarrow.example", "GET", "/api/today", HttpStatusCode.OK)]
    public async Task Each_kind_of_user_may_do_their_own_work_only(string who, string method, string path, HttpStatusCode expected)
    {
        using var person = await office.SignInAsync(who);
        using var request = new HttpRequestMessage(new HttpMethod(method), path) { Content = method == "GET" ? null : JsonContent.Create(new { }) };
        using var answer = await person.SendAsync(request);
        answer.StatusCode.ShouldBe(expected);
    }

    [Fact]
    public async Task Wrong_passwords_close_an_account_for_a_while()
    {
        using var guesser = new HttpClient { BaseAddress = new Uri(office.Address) };
        await Office.RenewTokenAsync(guesser);
        HttpStatusCode last = default;
        for (var i = 0; i < 6; i++)
        {
            using var answer = await guesser.PostAsJsonAsync("/api/sign-in", new { email = "desk2@saltmarrow.example", password = $"guess {i}" });
            last = answer.StatusCode;
        }

        last.ShouldBe(HttpStatusCode.Locked);
        using var right = await guesser.PostAsJsonAsync("/api/sign-in", new { email = "desk2@saltmarrow.example", password = "saltmarrow-demo" });
        right.StatusCode.ShouldBe(HttpStatusCode.Locked);
    }

    [Fact]
    public async Task The_front_ends_client_is_made_from_the_document_that_is_served()
    {
        using var http = new HttpClient { BaseAddress = new Uri(office.Address) };
        var served = Without(JsonNode.Parse(await http.GetStringAsync("/openapi/v1.json"))!);
        var kept = Without(JsonNode.Parse(await File.ReadAllTextAsync(Path.Combine(Office.Root, "web", "src", "api", "openapi.json")))!);
        JsonNode.DeepEquals(served, kept).ShouldBeTrue("run ./posttide client and commit what it writes");
    }

    /// <summary>The address a document was served at says nothing about the interface.</summary>
    private static JsonNode Without(JsonNode document)
    {
        document.AsObject().Remove("servers");
        return document;
    }
}
