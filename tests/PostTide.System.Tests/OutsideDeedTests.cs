using System.Net;
using System.Net.Sockets;
using System.Text.Json.Nodes;
using Npgsql;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>Outside deeds when the other side misbehaves or the server dies in the middle.</summary>
[Collection(nameof(SharedOffice))]
public sealed class OutsideDeedTests(Office office)
{
    private async Task<JsonNode> DeedAsync(JsonNode messageId, string kind) =>
        (await office.GetAsync($"/api/messages/{messageId}"))["deeds"]!.AsArray().Single(d => d!["kind"]!.GetValue<string>() == kind)!;

    private async Task SwitchAsync(string what, bool on)
    {
        using var form = new FormUrlEncodedContent([new KeyValuePair<string, string>("on", on ? "yes" : "no")]);
        (await office.StandIns.PostAsync($"/switch/{what}", form)).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task A_mail_host_that_refuses_for_a_while_gets_the_reply_later_under_the_same_id()
    {
        await SwitchAsync("mail-refuses", true);
        await office.SendAsync(Office.Mail("Diesel for patience", "60 litres of diesel please.\n"), "fuel@saltmarrow.example");
        var id = (await office.PlannedAsync("Diesel for patience"))["row"]!["id"]!;
        await Office.EventuallyAsync(async () => (await DeedAsync(id, "Reply"))["attempts"]!.GetValue<int>() >= 1);
        await SwitchAsync("mail-refuses", false);
        await Office.EventuallyAsync(async () =>
        {
            var reply = await DeedAsync(id, "Reply");
            if (reply["state"]!.GetValue<string>() == "Stuck")
            {
                await office.PostAsync($"/api/deeds/{reply["id"]}/retry");
            }

            return reply["state"]!.GetValue<string>() == "Done";
        });
        var mails = JsonNode.Parse(await office.StandIns.GetStringAsync("/mail"))!.AsArray()
            .Where(m => m!["source"]!.GetValue<string>().Contains("Subject: Re: Diesel for patience", StringComparison.Ordinal)).ToList();
        mails.Count.ShouldBe(1);
        var states = (await DeedAsync(id, "Reply"))["history"]!.AsArray().Select(h => h!["state"]!.GetValue<string>()).ToList();
        states.ShouldContain("UnderWay");
        states[^1].ShouldBe("Done");
    }

    [Fact]
    public async Task A_try_that_a_kill_cut_off_is_made_again_with_the_same_key_and_said_to_be_cut_off()
    {
        // A destination that takes the request and never answers, so that the server dies in the middle of it.
        using var silent = new TcpListener(IPAddress.Loopback, 0);
        silent.Start();
        var url = $"http://127.0.0.1:{((IPEndPoint)silent.LocalEndpoint).Port}/";
        using (var saved = await HttpClientJson(HttpMethod.Put, "/api/setup/destinations/0", new { id = 0, name = $"Silent {Guid.NewGuid():N}", url }))
        {
            saved.EnsureSuccessStatusCode();
        }

        var destination = (await office.GetAsync("/api/setup"))["destinations"]!.AsArray().Single(d => d!["url"]!.GetValue<string>() == url)!["id"]!;
        await office.SendAsync(Office.Mail("Cut off", "Hello.\n", to: "harbour@saltmarrow.example"), "harbour@saltmarrow.example");
        var id = (await office.PlannedAsync("Cut off"))["row"]!["id"]!;
        await office.PostAsync($"/api/messages/{id}/pass-on", new { destinationId = destination.GetValue<long>() });
        using (await silent.AcceptTcpClientAsync())
        {
            await Office.EventuallyAsync(async () => (await DeedAsync(id, "PassOn"))["state"]!.GetValue<string>() == "UnderWay");
            await office.KillServerAsync();
        }

        await using (var connection = new NpgsqlConnection(office.Connection))
        {
            await connection.OpenAsync();
            await using var repoint = new NpgsqlCommand($"UPDATE destinations SET url = '{office.StandIns.BaseAddress}records' WHERE id = {destination}", connection);
            await repoint.ExecuteNonQueryAsync();
        }

        await office.StartServerAsync();
        await Office.EventuallyAsync(async () => (await DeedAsync(id, "PassOn"))["state"]!.GetValue<string>() == "Done");
        var deed = await DeedAsync(id, "PassOn");
        deed["attempts"]!.GetValue<int>().ShouldBe(2);
        deed["history"]!.AsArray().Select(h => h!["note"]?.GetValue<string>() ?? "").ShouldContain(n => n.StartsWith("The try before was cut off", StringComparison.Ordinal));
        var key = await office.CountAsync($"SELECT count(DISTINCT key) FROM deeds WHERE id = {deed["id"]}");
        key.ShouldBe(1);
    }

    [Fact]
    public async Task A_redirect_is_not_followed()
    {
        using var listener = new HttpListener();
        var port = FreePort();
        listener.Prefixes.Add($"http://127.0.0.1:{port}/");
        listener.Start();
        var paths = new List<string>();
        _ = Task.Run(async () =>
        {
            while (listener.IsListening)
            {
                var context = await listener.GetContextAsync();
                paths.Add(context.Request.Url!.AbsolutePath);
                context.Response.Redirect($"http://127.0.0.1:{port}/elsewhere");
                context.Response.Close();
            }
        });
        using (var saved = await HttpClientJson(HttpMethod.Put, "/api/setup/destinations/0", new { id = 0, name = $"Redirecting {port}", url = $"http://127.0.0.1:{port}/records" }))
        {
            saved.EnsureSuccessStatusCode();
        }

        var destination = (await office.GetAsync("/api/setup"))["destinations"]!.AsArray().Single(d => d!["name"]!.GetValue<string>() == $"Redirecting {port}")!["id"]!.GetValue<long>();
        await office.SendAsync(Office.Mail("Redirected", "Hello.\n", to: "harbour@saltmarrow.example"), "harbour@saltmarrow.example");
        var id = (await office.PlannedAsync("Redirected"))["row"]!["id"]!;
        await office.PostAsync($"/api/messages/{id}/pass-on", new { destinationId = destination });
        await Office.EventuallyAsync(async () => (await DeedAsync(id, "PassOn"))["state"]!.GetValue<string>() == "Stuck");
        listener.Stop();
        paths.Distinct().ShouldBe(["/records"]);
        (await DeedAsync(id, "PassOn"))["because"]!.GetValue<string>().ShouldContain("302");
    }

    private async Task<HttpResponseMessage> HttpClientJson(HttpMethod method, string path, object body)
    {
        using var request = new HttpRequestMessage(method, path) { Content = global::System.Net.Http.Json.JsonContent.Create(body) };
        return await office.Http.SendAsync(request);
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }
}
