#!/usr/bin/env python3
"""An independent client of `honest-twin serve`, from a package of another language: every function code it has, exceptions,
and values that arrive. Called by .ci/run with the path of the program; says so where the package cannot be installed."""

import json
import subprocess
import sys
import tempfile
import time
import venv
from pathlib import Path

HEATER = """PROGRAM Heater
VAR_INPUT Key : BOOL; Degrees : INT; END_VAR
VAR_OUTPUT Heat : BOOL; Starts : INT; END_VAR
VAR Setpoint AT %MW20 : INT := 12; Hold AT %MX0.1 : BOOL; Delay : TON; END_VAR
Delay(IN := Key AND Degrees < Setpoint, PT := T#300ms);
Heat := Delay.Q AND NOT Hold;
END_PROGRAM
"""

# What the package is called where it is installed from.
PACKAGE = "pymodbus"


def inner(address: str) -> None:
    from pymodbus.client import ModbusTcpClient

    host, port = address.split(":")
    client = ModbusTcpClient(host, port=int(port))
    assert client.connect()

    def good(answer):
        assert not answer.isError(), answer
        return answer

    assert good(client.read_coils(0, count=1)).bits[0] is False
    assert good(client.read_discrete_inputs(0, count=1)).bits[0] is False
    assert good(client.read_holding_registers(20, count=1)).registers == [12]
    assert good(client.read_input_registers(0, count=1)).registers == [0]
    good(client.write_coil(57344, True))
    good(client.write_register(57344, 5))
    time.sleep(0.6)
    assert good(client.read_coils(0, count=1)).bits[0] is True
    good(client.write_coils(32768, [False, True]))
    time.sleep(0.1)
    assert good(client.read_coils(0, count=1)).bits[0] is False
    good(client.write_registers(20, [7, 8]))
    assert good(client.read_holding_registers(20, count=2)).registers == [7, 8]
    good(client.mask_write_register(address=20, and_mask=0x00F0, or_mask=0x0009))
    assert good(client.read_holding_registers(20, count=1)).registers == [9]
    answer = client.readwrite_registers(read_address=20, read_count=1, address=20, values=[6])
    assert good(answer).registers == [6]
    for wrong in (client.read_holding_registers(20480, count=1), client.read_input_registers(5000, count=2)):
        assert wrong.isError() and wrong.exception_code == 2, wrong
    client.close()
    print("every function and exception as it should be")


def main() -> int:
    program = Path(sys.argv[1]).resolve()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "heater.st").write_text(HEATER)
        try:
            venv.create(folder / "env", with_pip=True)
            python = folder / "env" / "bin" / "python"
            install = [python, "-m", "pip", "install", "--quiet", "--disable-pip-version-check", PACKAGE]
            subprocess.run(install, check=True, timeout=180, stderr=subprocess.DEVNULL)
        except (OSError, subprocess.SubprocessError) as error:
            print(f"not tried: the client package cannot be installed here ({error})")
            return 0
        call = [program, "--json", "serve", "heater.st", "--listen", "127.0.0.1:0"]
        call += ["--writable", "coils,registers,inputs", "--for", "60s"]
        serving = subprocess.Popen(call, cwd=folder, stdout=subprocess.PIPE, text=True)
        try:
            text = ""
            while "}" not in text:
                line = serving.stdout.readline()
                if not line:
                    print(f"it does not serve: {text}")
                    return 1
                text += line
            address = json.loads(text)["listening"]
            return subprocess.run([python, __file__, "--inner", address], check=False, timeout=60).returncode
        finally:
            serving.kill()


if __name__ == "__main__":
    if sys.argv[1] == "--inner":
        inner(sys.argv[2])
    else:
        sys.exit(main())
