"""Transfer functions against published values, and their inverses."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.signal import transfer as t

SIX_DIGITS = 6e-7  # the tables print six digits

# ITU-R BT.709-6 item 1.2 with the continuous constants; IEC 61966-2-1; BT.2100-2 table 5; ST 2084 5.2
GOLDEN = [
    (t.encode_bt709, 0.01, 0.045),
    (t.encode_bt709, 0.18, 0.408848),
    (t.encode_bt709, 0.5, 0.705436),
    (t.encode_bt709, 0.9, 0.949096),
    (t.encode_srgb, 0.002, 0.025840),
    (t.encode_srgb, 0.01, 0.099853),
    (t.encode_srgb, 0.18, 0.461356),
    (t.encode_srgb, 0.9, 0.954687),
    (t.encode_hlg, 0.01, 0.173205),
    (t.encode_hlg, 1 / 12, 0.5),
    (t.encode_hlg, 0.18, 0.672358),
    (t.encode_hlg, 0.5, 0.871643),
    (t.decode_hlg, 0.1, 0.0033333),
    (t.decode_hlg, 0.38, 0.0481333),
    (t.decode_hlg, 0.75, 0.2649626),
    (t.decode_hlg, 0.9, 0.5818376),
    (t.encode_pq, 0.1, 0.062337),
    (t.encode_pq, 1.0, 0.149946),
    (t.encode_pq, 100.0, 0.508078),
    (t.encode_pq, 203.0, 0.580689),
    (t.encode_pq, 1000.0, 0.751827),
    (t.encode_pq, 4000.0, 0.902572),
    (t.decode_bt1886, 0.5, 0.18946),
    (t.decode_bt1886, 0.75, 0.50136),
]


@pytest.mark.parametrize(("curve", "x", "expected"), GOLDEN)
def test_given_published_point_when_evaluated_then_it_agrees(curve, x, expected):
    tolerance = SIX_DIGITS if expected < 0.1 or curve is not t.decode_bt1886 else 6e-6

    assert float(curve(np.array(x))) == pytest.approx(expected, abs=tolerance)


PAIRS = [
    (t.encode_bt709, t.decode_bt709, -0.1, 4.0),
    (t.encode_srgb, t.decode_srgb, -0.1, 1.0),
    (t.encode_hlg, t.decode_hlg, -0.1, 1.0),
    (t.encode_pq, t.decode_pq, 0.001, 10000.0),
    (t.encode_bt1886, t.decode_bt1886, 0.0, 4.0),
]


@pytest.mark.parametrize(("encode", "decode", "low", "high"), PAIRS)
def test_given_any_light_when_encoded_and_decoded_then_it_returns(encode, decode, low, high):
    light = np.linspace(low, high, 2001)

    back = decode(encode(light))

    assert np.allclose(back, light, rtol=1e-9, atol=1e-9)


@pytest.mark.parametrize(("encode", "decode", "low", "high"), PAIRS)
@given(share=st.floats(0, 0.999))
def test_given_more_light_when_encoded_then_signal_rises(encode, decode, low, high, share):
    x = low + share * (high - low)

    assert float(encode(np.array(x + 0.001 * (high - low)))) > float(encode(np.array(x)))


@pytest.mark.parametrize(("encode", "decode", "low", "high"), PAIRS)
def test_given_not_a_number_when_encoded_then_it_stays_none(encode, decode, low, high):
    assert np.isnan(encode(np.array([np.nan]))).all()
