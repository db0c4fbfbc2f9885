package readaloud_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/plan"
	"upperlantern/internal/readaloud"
)

// What a call is expected to take is within 15 % of what it takes, and a second.
func TestTheLengthOfACallIsEstimatedWell(t *testing.T) {
	for _, c := range []struct{ tag, text string }{
		{"en", "Training is moved to Wednesday at half past six. Please bring a warm layer and tell us if you cannot come."},
		{"en", "18:30, 19:15, 20:00. Call 07700 900123 or 07700 900456."},
		{"en", "The river is rising at Fen Row. Meet at the mill at 17:45 with 3 pumps and 120 sandbags."},
		{"es", "El entrenamiento se pasa al miércoles a las 18:30. Por favor, traigan ropa de abrigo y avisen si no pueden venir."},
		{"pt-PT", "O treino passa para quarta-feira às 18:30. Por favor, tragam um agasalho e avisem se não puderem vir."},
		{"pt-BR", "O treino passa para quarta-feira às 18:30. Por favor, tragam um agasalho e avisem se não puderem vir."},
		{"pl", "Trening przeniesiono na środę na godzinę 18:30. Prosimy zabrać ciepłe ubranie i dać znać, jeśli nie możecie przyjść."},
		{"uk", "Тренування перенесено на середу на 18:30. Будь ласка, візьміть теплий одяг і повідомте, якщо не зможете прийти."},
		{"ar", "تم نقل التدريب إلى يوم الأربعاء الساعة 18:30. يرجى إحضار ملابس دافئة وإخبارنا إذا لم تتمكنوا من الحضور."},
		{"vi", "Buổi tập được chuyển sang thứ tư lúc 18:30. Xin mang theo áo ấm và báo cho chúng tôi nếu quý vị không thể đến."},
		{"zh-Hans", "训练改到星期三18:30。请带上保暖的衣服，如果不能来请告诉我们。"},
		{"zh-Hans", "河水正在上涨，请大家立即离开岛上，带上孩子和必需品，沿着磨坊后面的小路走到船库，在那里等候进一步的通知，不要返回停车场。"},
	} {
		t.Run(c.tag, func(t *testing.T) {
			wav, err := readaloud.Say(t.Context(), c.text, c.tag, plan.WordsPerMinute(c.tag))
			require.NoError(t, err)
			spoken := readaloud.Seconds(wav)
			assert.InDelta(t, spoken, plan.CallSeconds(c.text, c.tag), 0.15*float64(spoken)+1, c.text)
		})
	}
}
